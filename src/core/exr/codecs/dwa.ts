/**
 * OpenEXR's DWAA and DWAB, which differ in how many lines they pack at once: colours and brightness by their cosines with a
 * loss that the eye does not see, coverage by runs, everything else deflated.
 */
import type { Block } from './block';
import type { Deflate, Inflate } from './codec';
import { isOf, OLD_RULES, packRules, RULES, type Rule, type Sorted, sortChannels, unpackRules } from './dwa-channels';
import { AREA, blocksOf, type Light, packLights, unpackLights } from './dwa-light';
import { packWords, unpackWords } from './huffman';
import { halfPlane, numbersOf } from './numbers';
import { bytesOf, channelStarts, channelsOf, countWords, linesOf, wordsOf } from './planar';
import { arrange, restore } from './predictor';
import { packRuns, unpackRuns } from './rle';

const VERSION = 2;
/** Numbers of eight bytes that a chunk begins with. */
const HEAD = [
  'version',
  'plainRaw',
  'plain',
  'ac',
  'dc',
  'runs',
  'runsPacked',
  'runsRaw',
  'acWords',
  'dcWords',
  'acBy',
] as const;
type Head = Record<(typeof HEAD)[number], number>;
const HEAD_BYTES = HEAD.length * 8;
const [BY_HUFFMAN, BY_DEFLATE] = [0, 1];

const LARGEST_HALF = 65504;

/** A block's channels and what is to be done with them. */
class Plan {
  readonly starts: number[];
  readonly sorted: Sorted;

  constructor(
    readonly block: Block,
    rules: readonly Rule[],
  ) {
    this.starts = channelStarts(block);
    this.sorted = sortChannels(block, rules);
    // A whole number has no cosines, whatever a rule says.
    if (this.sorted.schemes.some((s, c) => s === 'cosine' && block.types[c] === 'uint'))
      throw new Error('whole numbers packed by their cosines');
  }

  channelsBy(scheme: Sorted['schemes'][number]): number[] {
    return this.sorted.schemes.flatMap((s, c) => (s === scheme ? [c] : []));
  }

  own(words: Uint16Array, c: number): Uint16Array {
    const { width, rows } = this.block;
    return words.subarray(this.starts[c], this.starts[c] + this.block.words[c] * width * rows);
  }

  bytesBy(scheme: Sorted['schemes'][number]): number {
    return (
      this.channelsBy(scheme).reduce((n, c) => n + this.block.words[c] * 2, 0) * this.block.width * this.block.rows
    );
  }

  /** Channels that are packed by their cosines, those of a colour together, in the order of the file. */
  lights(): number[][] {
    const { colours } = this.sorted;
    const alone = this.channelsBy('cosine').filter((c) => !colours.some((own) => own.includes(c)));
    return [...colours, ...alone.map((c) => [c])];
  }

  light(channels: readonly number[], planes: readonly Uint16Array[]): Light {
    const { width, rows, isPerceptual } = this.block;
    return { planes, isPerceptual: channels.length === 1 && isPerceptual[channels[0]], width, rows };
  }
}

/** Words of floats as halves; what half does not hold is its largest. */
function halvesOf(words: Uint16Array, isFloat: boolean): Uint16Array {
  if (!isFloat) return words;
  const floats = new Float32Array(new Uint8Array(bytesOf(words.slice())).buffer);
  for (let i = 0; i < floats.length; i++) floats[i] = Math.max(-LARGEST_HALF, Math.min(LARGEST_HALF, floats[i]));
  const halves = new Uint16Array(floats.length);
  halfPlane(floats, halves);
  return halves;
}

/** Bytes of samples apart: first the lowest of each, then the next. */
function bytesApart(words: Uint16Array, perSample: number): Uint8Array {
  const count = words.length / perSample;
  const out = new Uint8Array(words.length * 2);
  for (let i = 0; i < count; i++)
    for (let k = 0; k < perSample; k++) {
      const w = words[i * perSample + k];
      out[2 * k * count + i] = w;
      out[(2 * k + 1) * count + i] = w >> 8;
    }
  return out;
}

function bytesTogether(bytes: Uint8Array, words: Uint16Array, perSample: number): void {
  const count = words.length / perSample;
  for (let i = 0; i < count; i++)
    for (let k = 0; k < perSample; k++)
      words[i * perSample + k] = bytes[2 * k * count + i] | (bytes[(2 * k + 1) * count + i] << 8);
}

const joined = (pieces: readonly Uint8Array[]): Uint8Array => {
  const out = new Uint8Array(pieces.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const p of pieces) {
    out.set(p, at);
    at += p.length;
  }
  return out;
};

const EMPTY = new Uint8Array(0);

/** Lines packed. */
export async function packDwa(raw: Uint8Array, block: Block, deflate: Deflate): Promise<Uint8Array> {
  const { types, words: perSample } = block;
  const plan = new Plan(block, RULES);
  const words = channelsOf(raw, block);
  const plainBytes = joined(plan.channelsBy('plain').map((c) => bytesOf(plan.own(words, c).slice())));
  const runBytes = joined(plan.channelsBy('runs').map((c) => bytesApart(plan.own(words, c), perSample[c])));
  const { dc, ac } = packLights(
    plan.lights().map((channels) =>
      plan.light(
        channels,
        channels.map((c) => halvesOf(plan.own(words, c), types[c] === 'float')),
      ),
    ),
  );
  // Codes of words are at most a few bits longer than the words; their table has its own room.
  const codes = ac.length === 0 ? EMPTY : packWords(ac, ac.length * 4 + (1 << 17));
  const runs = runBytes.length === 0 ? EMPTY : packRuns(runBytes, runBytes.length * 2 + 2)!;
  const [plain, dcBytes, runsDeflated, acDeflated] = await Promise.all([
    plainBytes.length === 0 ? EMPTY : deflate(plainBytes),
    dc.length === 0 ? EMPTY : deflate(arrange(bytesOf(dc))),
    runs.length === 0 ? EMPTY : deflate(runs),
    codes ? EMPTY : deflate(bytesOf(ac)),
  ]);
  const acBytes = codes ?? acDeflated;
  const head: Head = {
    version: VERSION,
    plainRaw: plainBytes.length,
    plain: plain.length,
    ac: acBytes.length,
    dc: dcBytes.length,
    runs: runsDeflated.length,
    runsPacked: runs.length,
    runsRaw: runBytes.length,
    acWords: ac.length,
    dcWords: dc.length,
    acBy: codes ? BY_HUFFMAN : BY_DEFLATE,
  };
  const first = new Uint8Array(HEAD_BYTES);
  const view = new DataView(first.buffer);
  HEAD.forEach((key, i) => {
    view.setBigUint64(i * 8, BigInt(head[key]), true);
  });
  const rules = packRules(RULES.filter((r) => block.names.some((name, c) => isOf(r, name, types[c]))));
  return joined([first, rules, plain, acBytes, dcBytes, runsDeflated]);
}

function headOf(bytes: Uint8Array): Head {
  if (bytes.length < HEAD_BYTES) throw new Error('the chunk is cut short');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  const head = Object.fromEntries(HEAD.map((key, i) => [key, Number(view.getBigUint64(i * 8, true))])) as Head;
  if (head.version > VERSION) throw new Error(`a chunk of version ${head.version}`);
  if (head.acBy !== BY_HUFFMAN && head.acBy !== BY_DEFLATE) throw new Error(`coefficients packed by ${head.acBy}`);
  return head;
}

const same = (what: string, told: number, own: number): void => {
  if (told !== own) throw new Error(`${what} of ${told} bytes, expected ${own}`);
};

/** The lines again. Throws where the bytes do not hold them; takes memory by the block's size alone. */
export async function unpackDwa(bytes: Uint8Array, block: Block, inflate: Inflate): Promise<Uint8Array> {
  const { types, width, rows, words: perSample } = block;
  const head = headOf(bytes);
  let at = HEAD_BYTES;
  let rules: readonly Rule[] = OLD_RULES;
  if (head.version === VERSION) {
    const own = unpackRules(bytes.subarray(at));
    rules = own.rules;
    at += own.length;
  }
  const plan = new Plan(block, rules);
  const take = (length: number): Uint8Array => {
    if (length > bytes.length - at) throw new Error('the chunk is cut short');
    at += length;
    return bytes.subarray(at - length, at);
  };
  const [plain, acBytes, dcBytes, runs] = [head.plain, head.ac, head.dc, head.runs].map(take);
  const blocks = blocksOf(width, rows) * plan.channelsBy('cosine').length;
  const [plainRaw, runsRaw] = [plan.bytesBy('plain'), plan.bytesBy('runs')];
  same('plain channels', head.plainRaw, plainRaw);
  same('channels by runs', head.runsRaw, runsRaw);
  same('corners of blocks', head.dcWords * 2, blocks * 2);
  if (head.acWords > blocks * (AREA - 1))
    throw new Error(`${head.acWords} coefficients, at most ${blocks * (AREA - 1)} fit`);
  if (head.runsPacked > runsRaw * 2) throw new Error(`runs of ${head.runsPacked} bytes`);
  const inflated = async (packed: Uint8Array, expected: number): Promise<Uint8Array> => {
    if (expected === 0) return EMPTY;
    const own = await inflate(packed, expected);
    if (own.length !== expected) throw new Error(`it inflates to ${own.length} bytes, expected ${expected}`);
    return own;
  };
  const all = new Uint16Array(countWords(block));
  const plainWords = wordsOf(await inflated(plain, plainRaw));
  let from = 0;
  for (const c of plan.channelsBy('plain')) {
    const own = plan.own(all, c);
    own.set(plainWords.subarray(from, from + own.length));
    from += own.length;
  }
  if (runsRaw > 0) {
    const raw = unpackRuns(await inflated(runs, head.runsPacked), runsRaw);
    from = 0;
    for (const c of plan.channelsBy('runs')) {
      const own = plan.own(all, c);
      bytesTogether(raw.subarray(from, from + own.length * 2), own, perSample[c]);
      from += own.length * 2;
    }
  }
  if (blocks > 0) {
    const corners = wordsOf(restore(await inflated(dcBytes, blocks * 2)));
    const coefficients =
      head.acBy === BY_HUFFMAN
        ? unpackWords(acBytes, head.acWords)
        : wordsOf(await inflated(acBytes, head.acWords * 2));
    const sets = plan.lights().map((channels) => ({
      channels,
      planes: channels.map((c) => (types[c] === 'float' ? new Uint16Array(width * rows) : plan.own(all, c))),
    }));
    unpackLights(
      sets.map(({ channels, planes }) => plan.light(channels, planes)),
      corners,
      coefficients,
    );
    for (const { channels, planes } of sets)
      channels.forEach((c, k) => {
        if (types[c] !== 'float') return;
        const floats = numbersOf(bytesOf(planes[k]));
        plan.own(all, c).set(new Uint16Array(floats.buffer, floats.byteOffset, floats.length * 2));
      });
  }
  return linesOf(all, block);
}
