import { between, decodeSrgb, encodeSrgb, planesThrough } from '../image';
import { evaluate } from './evaluate';
import type { LookTable } from './operations/cube';
import type { Picture } from './picture';
import type { Entry, Operation, Stack } from './stack';

/** Operations that change a colour by itself, wherever it is. */
const BY_COLOUR: readonly Operation['does'][] = [
  ...(['exposure', 'white', 'contrast', 'saturation', 'ranges', 'shoulder', 'curves', 'table'] as const),
];

/** A grade as a look table, and what of the stack is not in it. */
export interface GradeCube {
  text: string;
  /** Entries above the last layer that need more than a colour, by name. */
  left: string[];
}

const isShown = (e: Entry) => e.on && e.opacity > 0;
const isGrade = (e: Entry) => e.kind === 'operation' && e.mask === null && BY_COLOUR.includes(e.operation.does);
const called = (e: Entry) => e.name || (e.kind === 'operation' ? e.operation.does : e.kind);

/** Light of every entry of a table, red changing fastest: evenly spread as the curve of sRGB encodes it, from black to `most`. */
function identity(size: number, most: number): Picture {
  const count = size ** 3;
  const steps = Float64Array.from({ length: size }, (_, i) => decodeSrgb((encodeSrgb(most) * i) / (size - 1)));
  const plane = (of: (i: number) => number) => Float32Array.from({ length: count }, (_, i) => steps[of(i)]);
  const [r, g, b] = [
    plane((i) => i % size),
    plane((i) => Math.floor(i / size) % size),
    plane((i) => Math.floor(i / size ** 2)),
  ];
  return { width: size * size, height: size, planes: [r, g, b, new Float32Array(count).fill(1)] };
}

/**
 * What the operations above a stack's last layer make of colours, as a .cube of three axes with `size` entries each: light in display white, linear
 * Rec.709, encoded by the curve of sRGB on its way in and out, from black to `most`. Those that have a mask, or need more of a picture
 * than a colour, are left out and named. Null where nothing grades. What is read again by the operation `table` with
 * `encoding: srgb` is the same grade, but for what lies between entries.
 */
export function gradeCube(
  stack: Stack,
  table: (name: string) => LookTable,
  { size, most }: { size: number; most: number },
): GradeCube | null {
  const shown = stack.entries.filter(isShown);
  const above = shown.slice(shown.findLastIndex((e) => e.kind !== 'operation') + 1);
  const grades = above.filter(isGrade);
  if (grades.length === 0) return null;
  const left = above.filter((e) => !isGrade(e)).map(called);
  const plain = identity(size, most);
  const [r, g, b] = planesThrough(plain.planes, between('Rec.709', stack.space));
  const picture: Picture = { ...plain, planes: [r, g, b, plain.planes[3]] };
  const none = () => {
    throw new Error('a grade takes nothing of a film');
  };
  const base: Entry = {
    ...{ kind: 'layer', name: '', on: true, opacity: 1, mask: null, way: 'by itself', operations: [] },
    source: { from: 'picture', picture: 'colours' },
  };
  const { width, height } = picture;
  const sources = { width, height, light: () => picture, mask: none, depth: none, table };
  const { planes: made } = evaluate({ ...stack, masks: {}, entries: [base, ...grades] }, sources);
  const planes = planesThrough(made, between(stack.space, 'Rec.709'));
  const end = encodeSrgb(most).toFixed(6);
  const lines = [
    `# ${stack.name || 'grade'}: ${grades.map(called).join(', ')}`,
    `# Linear Rec.709 light, 1 = display white, encoded by the curve of sRGB on its way in and out.`,
    ...(left.length > 0 ? [`# Not in it: ${left.join(', ')}`] : []),
    `LUT_3D_SIZE ${size}`,
    'DOMAIN_MIN 0 0 0',
    `DOMAIN_MAX ${end} ${end} ${end}`,
  ].map((l) => l.replace(/\s+/g, ' '));
  for (let i = 0; i < planes[0].length; i++)
    lines.push([0, 1, 2].map((c) => encodeSrgb(Math.max(0, planes[c][i])).toFixed(6)).join(' '));
  return { text: `${lines.join('\n')}\n`, left };
}
