import type { Picture, Rgb } from './picture';
import type { Table, Tone } from './tones';
import type { Way } from './ways';

/** At which share something takes effect, and where. */
export interface Effect {
  opacity: number;
  mask: Float32Array | null;
}

/** Light to be joined: a picture, a colour all over (straight), or steps of its own over nothing. */
export type Light = Picture | { rgb: Rgb; alpha: number } | { steps: readonly Step[] };

/** Something that can be done pixel by pixel. */
export type Step =
  /** A layer with what is done to it, joined. */
  | ({ do: 'join'; light: Light; tones: readonly Tone[]; way: Way } & Effect)
  /** A tone of all that is below. */
  | ({ do: 'tone'; tone: Tone } & Effect)
  /** What has been made of all that is below, in its place. */
  | ({ do: 'replace'; by: Picture } & Effect);

export const tablesOf = (tone: Tone): readonly Table[] =>
  tone.kind === 'lead' || tone.kind === 'gain' ? tone.tables : tone.kind === 'veil' ? [tone.table] : [];

/** Tables of tones, each once. */
export function tablesIn(steps: readonly Step[]): Table[] {
  const all = (of: readonly Step[]): Table[] =>
    of.flatMap((s) => {
      if (s.do === 'tone') return [...tablesOf(s.tone)];
      if (s.do !== 'join') return [];
      return [...s.tones.flatMap((t) => [...tablesOf(t)]), ...('steps' in s.light ? all(s.light.steps) : [])];
    });
  return [...new Set(all(steps))];
}

/** The same steps over other planes. */
export function overPlanes(steps: readonly Step[], f: (plane: Float32Array) => Float32Array): Step[] {
  const picture = (p: Picture): Picture => overPicture(p, f);
  const tone = (t: Tone): Tone =>
    t.kind === 'times' ? { ...t, plane: f(t.plane) } : t.kind === 'veil' ? { ...t, depth: f(t.depth) } : t;
  const light = (l: Light): Light =>
    'planes' in l ? picture(l) : 'steps' in l ? { steps: overPlanes(l.steps, f) } : l;
  return steps.map((step): Step => {
    const mask = step.mask && f(step.mask);
    if (step.do === 'join') return { ...step, mask, light: light(step.light), tones: step.tones.map(tone) };
    return step.do === 'tone' ? { ...step, mask, tone: tone(step.tone) } : { ...step, mask, by: picture(step.by) };
  });
}

export function overPicture(p: Picture, f: (plane: Float32Array) => Float32Array): Picture {
  const [r, g, b, a] = p.planes;
  return { ...p, planes: [f(r), f(g), f(b), f(a)] };
}

/** Planes that steps read, each once. */
export function allPlanes(steps: readonly Step[], below: Picture | null): Set<Float32Array> {
  const all = new Set<Float32Array>();
  const look = (plane: Float32Array) => {
    all.add(plane);
    return plane;
  };
  overPlanes(steps, look);
  if (below) overPicture(below, look);
  return all;
}

/** How many pictures lie on each other at most while steps are gone through. */
export const depthOf = (steps: readonly Step[]): number =>
  1 + Math.max(1, ...steps.map((s) => (s.do === 'join' && 'steps' in s.light ? depthOf(s.light.steps) : 1)));
