/** Frames that cannot be read, with the piece that is at fault. */
export class FramesError extends Error {}

/** Most frames of one run. */
export const MOST_FRAMES = 20000;

const PIECE = /^(-?\d+)(?:-(-?\d+)(?:x(\d+))?)?$/;

/**
 * Frames of a text such as `1-10,15,20-48x2`: single frames, inclusive ranges, and every so many of a range. In rising order,
 * each once. Throws `FramesError` for what cannot be read, and for frames outside of `within`.
 */
export function parseFrames(text: string, within?: { first: number; last: number }): number[] {
  const found = new Set<number>();
  for (const piece of text.split(',').map((p) => p.trim())) {
    const m = PIECE.exec(piece);
    if (!m)
      throw new FramesError(`${piece || 'nothing'}: a frame as 5, first and last as 1-48, every second as 1-48x2`);
    const [first, last, step] = [Number(m[1]), Number(m[2] ?? m[1]), Number(m[3] ?? 1)];
    if (last < first) throw new FramesError(`${piece}: the last comes before the first`);
    if (step < 1) throw new FramesError(`${piece}: a step is 1 or more`);
    if (within && (first < within.first || last > within.last))
      throw new FramesError(`${piece}: the shot has frames ${within.first} to ${within.last}`);
    if ((last - first) / step + found.size >= MOST_FRAMES) throw new FramesError(`more than ${MOST_FRAMES} frames`);
    for (let f = first; f <= last; f += step) found.add(f);
  }
  return [...found].sort((a, b) => a - b);
}

/** The shortest text of frames that `parseFrames` reads as the same. */
export function framesText(frames: readonly number[]): string {
  const sorted = [...new Set(frames)].sort((a, b) => a - b);
  const pieces: string[] = [];
  for (let i = 0; i < sorted.length; ) {
    const step = sorted[i + 1] - sorted[i];
    let j = i + 1;
    while (sorted[j + 1] - sorted[j] === step) j++;
    // Two frames that are apart are no range.
    if (i + 1 >= sorted.length || (j === i + 1 && step > 1)) pieces.push(String(sorted[i++]));
    else {
      pieces.push(`${sorted[i]}-${sorted[j]}${step > 1 ? `x${step}` : ''}`);
      i = j + 1;
    }
  }
  return pieces.join(',');
}

export const ORDERS = ['ends', 'rising'] as const;
export type Order = (typeof ORDERS)[number];

/** Frames in the order they are rendered: as they come, or first, middle and last before the others, so that mistakes show early. */
export function inOrder(frames: readonly number[], order: Order): number[] {
  if (order === 'rising' || frames.length < 3) return [...frames];
  const early = [0, frames.length >> 1, frames.length - 1];
  return [...early.map((i) => frames[i]), ...frames.filter((_, i) => !early.includes(i))];
}

/** So many of a list, evenly, its first and last among them; all of it where there are no more. */
export function evenly<T>(list: readonly T[], most: number): T[] {
  if (list.length <= most) return [...list];
  return Array.from({ length: most }, (_, i) => list[Math.round((i * (list.length - 1)) / (most - 1))]);
}
