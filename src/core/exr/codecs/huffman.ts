/**
 * Huffman codes of 16-bit words as OpenEXR's PIZ writes them: lengths packed with runs of zeros, canonical codes, longest
 * first, and one symbol beyond the largest that stands for a run of the word before it.
 */

/** Words, and the symbol of runs that may lie beyond all of them. */
const SYMBOLS = 65537;
const MOST_LENGTH = 58;
/** Lengths that stand for runs of zeros: from 2 on, and from 6 on with their count in eight bits. */
const [SHORT_RUN, LONG_RUN] = [59, 63];
const [SHORTEST_RUN, SHORTEST_LONG] = [2, 6];
const LONGEST_RUN = 255 + SHORTEST_LONG;
const MOST_REPEATS = 255;
const HEAD = 20;
/** Bits that are looked up at once. */
const LOOKED_UP = 14;

/** Bits from the highest of each byte down. */
class BitWriter {
  private readonly bytes: Uint8Array;
  private at = 0;
  private held = 0;
  private count = 0;

  constructor(most: number) {
    this.bytes = new Uint8Array(most + 4);
  }

  /** Writes the lowest `length` bits of a number below 2^53. False when there is no room. */
  put(value: number, length: number): boolean {
    // Seven bits at most are held, so that 24 more fit into a word.
    if (length > 24) {
      const high = Math.floor(value / 2 ** 24);
      return this.put(high, length - 24) && this.put(value - high * 2 ** 24, 24);
    }
    if (this.at + 4 > this.bytes.length) return false;
    this.held = (this.held << length) | value;
    this.count += length;
    while (this.count >= 8) {
      this.count -= 8;
      this.bytes[this.at++] = this.held >>> this.count;
    }
    this.held &= (1 << this.count) - 1;
    return true;
  }

  get bits(): number {
    return this.at * 8 + this.count;
  }

  /** What has been written, the last byte filled with zeros; null without room for it. */
  done(): Uint8Array | null {
    if (this.count > 0 && !this.put(0, 8 - this.count)) return null;
    return this.bytes.subarray(0, this.at);
  }
}

class BitReader {
  position = 0;
  private readonly bytes: Uint8Array;

  constructor(
    bytes: Uint8Array,
    private readonly bits: number,
  ) {
    // What is looked at may lie beyond the end.
    this.bytes = new Uint8Array(bytes.length + 4);
    this.bytes.set(bytes);
  }

  get isDone(): boolean {
    return this.position >= this.bits;
  }

  take(count: number): number {
    if (this.position + count > this.bits) throw new Error('codes end beyond the chunk');
    let value = 0;
    for (let i = 0; i < count; i++, this.position++)
      value = value * 2 + ((this.bytes[this.position >> 3] >> (7 - (this.position & 7))) & 1);
    return value;
  }

  /** The next `LOOKED_UP` bits, zeros beyond the end, left where they are. */
  peek(): number {
    const byte = this.position >> 3;
    const three = (this.bytes[byte] << 16) | (this.bytes[byte + 1] << 8) | this.bytes[byte + 2];
    return (three >> (24 - LOOKED_UP - (this.position & 7))) & ((1 << LOOKED_UP) - 1);
  }
}

/** First code of every length: the longest begin at zero. */
function firstCodes(lengths: Uint8Array): { first: Float64Array; count: Uint32Array } {
  const count = new Uint32Array(MOST_LENGTH + 1);
  for (const l of lengths) if (l > 0) count[l]++;
  const first = new Float64Array(MOST_LENGTH + 1);
  let code = 0;
  for (let l = MOST_LENGTH; l > 0; l--) {
    first[l] = code;
    code = Math.floor((code + count[l]) / 2);
  }
  return { first, count };
}

/** Lengths of the codes of symbols by how often they come [Huffman 1952], two queues of ascending weights merged. */
function lengthsOf(often: Uint32Array): Uint8Array {
  const used: number[] = [];
  for (let s = 0; s < often.length; s++) if (often[s] > 0) used.push(s);
  used.sort((a, b) => often[a] - often[b]);
  const n = used.length;
  const weight = new Float64Array(2 * n - 1);
  const parent = new Int32Array(2 * n - 1);
  for (let i = 0; i < n; i++) weight[i] = often[used[i]];
  let [leaf, inner] = [0, n];
  for (let node = n; node < 2 * n - 1; node++) {
    for (let k = 0; k < 2; k++) {
      const isLeaf = leaf < n && (inner >= node || weight[leaf] <= weight[inner]);
      const child = isLeaf ? leaf++ : inner++;
      weight[node] += weight[child];
      parent[child] = node;
    }
  }
  const depth = new Uint8Array(2 * n - 1);
  for (let node = 2 * n - 3; node >= 0; node--) depth[node] = depth[parent[node]] + 1;
  const lengths = new Uint8Array(often.length);
  for (let i = 0; i < n; i++) lengths[used[i]] = depth[i];
  return lengths;
}

function packLengths(lengths: Uint8Array, from: number, to: number, out: BitWriter): boolean {
  for (let s = from; s <= to; s++) {
    if (lengths[s] > 0) {
      if (!out.put(lengths[s], 6)) return false;
      continue;
    }
    let run = 1;
    while (s + run <= to && run < LONGEST_RUN && lengths[s + run] === 0) run++;
    const isLong = run >= SHORTEST_LONG;
    if (!out.put(run < SHORTEST_RUN ? 0 : isLong ? LONG_RUN : SHORT_RUN + run - SHORTEST_RUN, 6)) return false;
    if (isLong && !out.put(run - SHORTEST_LONG, 8)) return false;
    s += run - 1;
  }
  return true;
}

/** Words packed, in `most` bytes at most; null where they do not fit. */
export function packWords(words: Uint16Array, most: number): Uint8Array | null {
  if (words.length === 0) return new Uint8Array(0);
  const often = new Uint32Array(SYMBOLS);
  for (const w of words) often[w]++;
  let [from, run] = [0, SYMBOLS - 1];
  while (often[from] === 0) from++;
  while (often[run - 1] === 0) run--;
  often[run] = 1;
  const lengths = lengthsOf(often);
  const { first } = firstCodes(lengths);
  const codes = new Float64Array(SYMBOLS);
  for (let s = from; s <= run; s++) if (lengths[s] > 0) codes[s] = first[lengths[s]]++;
  const table = new BitWriter(most);
  const data = new BitWriter(most);
  if (!packLengths(lengths, from, run, table)) return null;
  const send = (word: number, repeats: number): boolean => {
    const l = lengths[word];
    if (l + lengths[run] + 8 < l * repeats)
      return data.put(codes[word], l) && data.put(codes[run], lengths[run]) && data.put(repeats, 8);
    for (let k = 0; k <= repeats; k++) if (!data.put(codes[word], l)) return false;
    return true;
  };
  let [word, repeats] = [words[0], 0];
  for (let i = 1; i < words.length; i++) {
    if (words[i] === word && repeats < MOST_REPEATS) {
      repeats++;
      continue;
    }
    if (!send(word, repeats)) return null;
    word = words[i];
    repeats = 0;
  }
  if (!send(word, repeats)) return null;
  const { bits } = data;
  const [own, packed] = [table.done(), data.done()];
  if (!own || !packed || HEAD + own.length + packed.length > most) return null;
  const out = new Uint8Array(HEAD + own.length + packed.length);
  const view = new DataView(out.buffer);
  [from, run, own.length, bits, 0].forEach((v, i) => {
    view.setUint32(i * 4, v, true);
  });
  out.set(own, HEAD);
  out.set(packed, HEAD + own.length);
  return out;
}

function readLengths(reader: BitReader, from: number, to: number): Uint8Array {
  const lengths = new Uint8Array(SYMBOLS);
  for (let s = from; s <= to; s++) {
    const l = reader.take(6);
    if (l < SHORT_RUN) {
      lengths[s] = l;
      continue;
    }
    const run = l === LONG_RUN ? reader.take(8) + SHORTEST_LONG : l - SHORT_RUN + SHORTEST_RUN;
    if (s + run > to + 1) throw new Error('a run of code lengths ends beyond the table');
    s += run - 1;
  }
  return lengths;
}

/** Symbols by the place of their code: those of one length side by side, and where each length begins. */
function decoding(lengths: Uint8Array) {
  const { first, count } = firstCodes(lengths);
  const begins = new Uint32Array(MOST_LENGTH + 2);
  for (let l = 1; l <= MOST_LENGTH; l++) begins[l + 1] = begins[l] + count[l];
  const next = begins.slice();
  const symbols = new Uint32Array(begins[MOST_LENGTH + 1]);
  for (let s = 0; s < SYMBOLS; s++) if (lengths[s] > 0) symbols[next[lengths[s]]++] = s;
  // Of short codes the symbol and its length are looked up.
  const table = new Uint32Array(1 << LOOKED_UP);
  for (let l = 1; l <= LOOKED_UP; l++)
    for (let k = 0; k < count[l]; k++) {
      const code = first[l] + k;
      const at = code << (LOOKED_UP - l);
      if (code >= 1 << l) throw new Error('code lengths that no codes have');
      table.fill((symbols[begins[l] + k] << 6) | l, at, at + (1 << (LOOKED_UP - l)));
    }
  return { first, count, begins, symbols, table };
}

/** So many words again. Throws where the bytes do not hold them. */
export function unpackWords(bytes: Uint8Array, expected: number): Uint16Array {
  const out = new Uint16Array(expected);
  if (expected === 0) return out;
  if (bytes.length < HEAD) throw new Error('codes are cut short');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  const [from, run] = [view.getUint32(0, true), view.getUint32(4, true)];
  if (from >= SYMBOLS || run >= SYMBOLS || from > run) throw new Error('code lengths of symbols that are none');
  const tableBytes = bytes.subarray(HEAD);
  const tableReader = new BitReader(tableBytes, tableBytes.length * 8);
  const lengths = readLengths(tableReader, from, run);
  const data = tableBytes.subarray(Math.ceil(tableReader.position / 8));
  const bits = view.getUint32(12, true);
  if (bits > data.length * 8) throw new Error('codes end beyond the chunk');
  const { first, count, begins, symbols, table } = decoding(lengths);
  const reader = new BitReader(data, bits);
  let to = 0;
  while (!reader.isDone) {
    const looked = table[reader.peek()];
    let symbol = looked >>> 6;
    if (looked !== 0) {
      reader.position += looked & 63;
      if (reader.position > bits) throw new Error('codes end beyond the chunk');
    } else {
      let [code, l] = [reader.take(LOOKED_UP), LOOKED_UP];
      do {
        code = code * 2 + reader.take(1);
        l++;
        if (l > MOST_LENGTH) throw new Error('a code that is none');
      } while (count[l] === 0 || code < first[l] || code >= first[l] + count[l]);
      symbol = symbols[begins[l] + code - first[l]];
    }
    if (symbol === run) {
      const repeats = reader.take(8);
      if (to === 0 || to + repeats > expected) throw new Error(`codes come to more than ${expected} words`);
      out.fill(out[to - 1], to, to + repeats);
      to += repeats;
    } else {
      if (to >= expected) throw new Error(`codes come to more than ${expected} words`);
      out[to++] = symbol;
    }
  }
  if (to !== expected) throw new Error(`codes come to ${to} words, expected ${expected}`);
  return out;
}
