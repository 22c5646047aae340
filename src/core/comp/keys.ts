/** A number, or numbers, set at frames; between them it goes evenly, or eased: slow at both ends. */
export interface Keyed {
  keys: { frame: number; value: unknown }[];
  ease?: boolean;
}

const isKeyed = (v: object): v is Keyed => 'keys' in v && Array.isArray(v.keys);
const isKey = (k: unknown): k is Keyed['keys'][number] =>
  typeof k === 'object' && k !== null && typeof (k as { frame?: unknown }).frame === 'number' && 'value' in k;

/** What is a part `t` of the way between two values of one form; the first where they are no numbers. */
function between(a: unknown, b: unknown, t: number): unknown {
  if (typeof a === 'number' && typeof b === 'number') return a + (b - a) * t;
  if (Array.isArray(a) && Array.isArray(b) && a.length === b.length) return a.map((v, i) => between(v, b[i], t));
  return a;
}

/** What it is at a frame. */
export function valueAt({ keys, ease }: Keyed, frame: number): unknown {
  const sorted = [...keys].sort((a, b) => a.frame - b.frame);
  const next = sorted.findIndex((k) => k.frame >= frame);
  if (next === 0 || sorted[next]?.frame === frame) return sorted[next].value;
  if (next < 0) return sorted[sorted.length - 1].value;
  const [a, b] = [sorted[next - 1], sorted[next]];
  const t = (frame - a.frame) / (b.frame - a.frame);
  return between(a.value, b.value, ease ? t * t * (3 - 2 * t) : t);
}

/** What is set at frames; null for what is not of that form. */
export function keyOf(value: unknown): Keyed | null {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return null;
  return isKeyed(value) && value.keys.length > 0 && value.keys.every(isKey) ? value : null;
}

/** A document as it is at a frame: everything that is set at frames as it is there. What is not of that form stays, to be refused. */
export function atFrame(value: unknown, frame: number): unknown {
  if (Array.isArray(value)) return value.map((v) => atFrame(v, frame));
  if (typeof value !== 'object' || value === null) return value;
  const keyed = keyOf(value);
  if (keyed) return valueAt(keyed, frame);
  return Object.fromEntries(Object.entries(value).map(([k, v]) => [k, atFrame(v, frame)]));
}

/** All frames at which something of a document is set. */
export function keyFrames(value: unknown): number[] {
  if (typeof value !== 'object' || value === null) return [];
  if (!Array.isArray(value) && isKeyed(value) && value.keys.every(isKey)) return value.keys.map((k) => k.frame);
  return [...new Set(Object.values(value).flatMap(keyFrames))].sort((a, b) => a - b);
}
