/**
 * Huffman codes of 16-bit words as OpenEXR's PIZ writes them: lengths packed with runs of zeros, canonical codes, longest
 * first, and one symbol beyond the largest that stands for a run of the word before it.
 */
import { FAULTS, put, room } from './hot';

/** Words, and the symbol of runs that may lie beyond all of them. */
const SYMBOLS = 65537;
const MOST_LENGTH = 58;
/** Lengths that stand for runs of zeros: from 2 on, and from 6 on with their count in eight bits. */
const [SHORT_RUN, LONG_RUN] = [59, 63];
const [SHORTEST_RUN, SHORTEST_LONG] = [2, 6];
const LONGEST_RUN = 255 + SHORTEST_LONG;
const HEAD = 20;
/** Bits that are looked up at once. */
const LOOKED_UP = 14;

/** Numbers in bits, from the highest of each byte down. */
class BitWriter {
  private readonly bytes: number[] = [];
  private held = 0;
  private count = 0;

  put(value: number, length: number): void {
    this.held = (this.held << length) | value;
    this.count += length;
    while (this.count >= 8) {
      this.count -= 8;
      this.bytes.push((this.held >>> this.count) & 255);
    }
    this.held &= (1 << this.count) - 1;
  }

  /** What has been written, the last byte filled with zeros. */
  done(): Uint8Array {
    if (this.count > 0) this.put(0, 8 - this.count);
    return Uint8Array.from(this.bytes);
  }
}

class BitReader {
  position = 0;

  constructor(private readonly bytes: Uint8Array) {}

  take(count: number): number {
    if (this.position + count > this.bytes.length * 8) throw new Error('codes end beyond the chunk');
    let value = 0;
    for (let i = 0; i < count; i++, this.position++)
      value = value * 2 + ((this.bytes[this.position >> 3] >> (7 - (this.position & 7))) & 1);
    return value;
  }
}

/** First code of every length: the longest begin at zero, so that codes are small numbers however long. */
function firstCodes(lengths: Uint8Array): { first: Uint32Array; count: Uint32Array } {
  const count = new Uint32Array(MOST_LENGTH + 1);
  for (let s = 0; s < lengths.length; s++) if (lengths[s] > 0) count[lengths[s]]++;
  const first = new Uint32Array(MOST_LENGTH + 1);
  let code = 0;
  for (let l = MOST_LENGTH; l > 0; l--) {
    first[l] = code;
    code = (code + count[l]) >> 1;
  }
  return { first, count };
}

/** Lengths of the codes of symbols by how often they come [Huffman 1952], two queues of ascending weights merged. */
function lengthsOf(often: Uint32Array): Uint8Array {
  const keys = new Float64Array(SYMBOLS);
  let n = 0;
  for (let s = 0; s < SYMBOLS; s++) if (often[s] > 0) keys[n++] = often[s] * SYMBOLS + s;
  const used = keys.subarray(0, n).sort();
  for (let i = 0; i < n; i++) used[i] %= SYMBOLS;
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

function packLengths(lengths: Uint8Array, from: number, to: number): Uint8Array {
  const out = new BitWriter();
  for (let s = from; s <= to; s++) {
    if (lengths[s] > 0) {
      out.put(lengths[s], 6);
      continue;
    }
    let run = 1;
    while (s + run <= to && run < LONGEST_RUN && lengths[s + run] === 0) run++;
    const isLong = run >= SHORTEST_LONG;
    out.put(run < SHORTEST_RUN ? 0 : isLong ? LONG_RUN : SHORT_RUN + run - SHORTEST_RUN, 6);
    if (isLong) out.put(run - SHORTEST_LONG, 8);
    s += run - 1;
  }
  return out.done();
}

/** Words packed, in `most` bytes at most; null where they do not fit. */
export function packWords(words: Uint16Array, most: number): Uint8Array | null {
  if (words.length === 0) return new Uint8Array(0);
  const often = new Uint32Array(SYMBOLS);
  for (let i = 0; i < words.length; i++) often[words[i]]++;
  let [from, run] = [0, SYMBOLS - 1];
  while (often[from] === 0) from++;
  while (often[run - 1] === 0) run--;
  often[run] = 1;
  const lengths = lengthsOf(often);
  const { first } = firstCodes(lengths);
  const codes = new Uint32Array(SYMBOLS);
  let mostBits = 0;
  for (let s = from; s <= run; s++) {
    if (lengths[s] === 0) continue;
    // However long, a code is less than twice as many symbols as there are: its length fits beside it.
    codes[s] = (first[lengths[s]]++ << 6) | lengths[s];
    mostBits += often[s] * lengths[s];
  }
  const table = packLengths(lengths, from, run);
  const own = room(words.byteLength, codes.byteLength, Math.ceil(mostBits / 8));
  const [wordsAt, codesAt, to] = own.at;
  put(own, wordsAt, words);
  put(own, codesAt, codes);
  const bits = own.loops.encode(wordsAt, words.length, codesAt, run, to);
  const packed = new Uint8Array(own.memory, to, Math.ceil(bits / 8));
  if (HEAD + table.length + packed.length > most) return null;
  const out = new Uint8Array(HEAD + table.length + packed.length);
  const view = new DataView(out.buffer);
  [from, run, table.length, bits, 0].forEach((v, i) => {
    view.setUint32(i * 4, v, true);
  });
  out.set(table, HEAD);
  out.set(packed, HEAD + table.length);
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
  if (expected === 0) return new Uint16Array(0);
  if (bytes.length < HEAD) throw new Error('codes are cut short');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  const [from, run] = [view.getUint32(0, true), view.getUint32(4, true)];
  if (from >= SYMBOLS || run >= SYMBOLS || from > run) throw new Error('code lengths of symbols that are none');
  const tableBytes = bytes.subarray(HEAD);
  const tableReader = new BitReader(tableBytes);
  const lengths = readLengths(tableReader, from, run);
  const data = tableBytes.subarray(Math.ceil(tableReader.position / 8));
  const bits = view.getUint32(12, true);
  if (bits > data.length * 8) throw new Error('codes end beyond the chunk');
  const { first, count, begins, symbols, table } = decoding(lengths);
  const pieces = [data, table, first, count, begins, symbols];
  const own = room(...pieces.map((p) => p.byteLength), expected * 2);
  pieces.forEach((p, i) => {
    put(own, own.at[i], p);
  });
  const [fromAt, tableAt, firstAt, countAt, beginsAt, symbolsAt, to] = own.at;
  const { decode } = own.loops;
  const read = decode(fromAt, bits, tableAt, firstAt, countAt, beginsAt, symbolsAt, run, to, expected);
  if (read === FAULTS.beyondTheEnd) throw new Error('codes end beyond the chunk');
  if (read === FAULTS.noCode) throw new Error('a code that is none');
  if (read === FAULTS.tooMany) throw new Error(`codes come to more than ${expected} words`);
  if (read !== expected) throw new Error(`codes come to ${read} words, expected ${expected}`);
  return new Uint16Array(own.memory, to, expected).slice();
}
