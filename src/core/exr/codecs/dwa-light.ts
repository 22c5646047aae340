/**
 * The part of DWA that loses: halves bent to what the eye sees, eight by eight to cosines, those rounded to halves of few bits,
 * and runs of zeros counted. The corner of each block goes one way (`dc`), the others another (`ac`).
 */
import { fromHalf, toHalf } from '../half';
import { put, room } from './hot';

/** Values on a side of a block, and in it. */
const SIDE = 8;
export const AREA = SIDE * SIDE;

/** Largest error of a coefficient at the coarsest level of the eye's own. */
const BASE_ERROR = 45 / 100000;
/** e^2.2 as the format rounds it: where the bent scale goes on as a logarithm. */
const LOG_BASE = Math.exp(2.2);

let curves: { bent: Uint16Array; linear: Uint16Array } | null = null;
/** Halves to the bent scale and back: a power of 1/2.2 up to 1, a logarithm from there. */
function scales(): { bent: Uint16Array; linear: Uint16Array } {
  if (curves) return curves;
  const bent = new Uint16Array(65536);
  const linear = new Uint16Array(65536);
  for (let h = 1; h < 65536; h++) {
    const v = fromHalf(h);
    if (!Number.isFinite(v)) continue;
    const [size, sign] = [Math.abs(v), v < 0 ? -1 : 1];
    bent[h] = toHalf(sign * (size <= 1 ? size ** (1 / 2.2) : Math.log(size) / Math.log(LOG_BASE) + 1));
    linear[h] = toHalf(sign * (size <= 1 ? size ** 2.2 : LOG_BASE ** (size - 1)));
  }
  curves = { bent, linear };
  return curves;
}

/** What JPEG weighs coefficients by [ITU-T T.81, annex K]: of brightness and of colour, each against its least. */
const LUMA = [
  16, 11, 10, 16, 24, 40, 51, 61, 12, 12, 14, 19, 26, 58, 60, 55, 14, 13, 16, 24, 40, 57, 69, 56, 14, 17, 22, 29, 51,
  87, 80, 62, 18, 22, 37, 56, 68, 109, 103, 77, 24, 35, 55, 64, 81, 104, 113, 92, 49, 64, 78, 87, 103, 121, 120, 101,
  72, 92, 95, 98, 112, 100, 103, 99,
].map((w) => (BASE_ERROR * w) / 10);
const CHROMA = [
  17, 18, 24, 47, 99, 99, 99, 99, 18, 21, 26, 66, 99, 99, 99, 99, 24, 26, 56, 99, 99, 99, 99, 99, 47, 66, 99, 99, 99,
  99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99,
  99, 99, 99, 99, 99, 99,
].map((w) => (BASE_ERROR * w) / 17);

const errors = Float64Array.from([...LUMA, ...CHROMA]);

/** Blocks of a channel. */
export const blocksOf = (width: number, rows: number): number => Math.ceil(width / SIDE) * Math.ceil(rows / SIDE);

/** One channel, or three of a colour; halves of `width` × `rows`. */
export interface Light {
  planes: readonly Uint16Array[];
  isPerceptual: boolean;
  width: number;
  rows: number;
}

const AT_MOST = AREA - 1;

const cornersOf = ({ planes, width, rows }: Light): number => blocksOf(width, rows) * planes.length;
const bytesOf = ({ planes, width, rows }: Light): number => planes.length * width * rows * 2;
const sum = (lights: readonly Light[], of: (light: Light) => number): number => lights.reduce((n, l) => n + of(l), 0);
const largest = (lights: readonly Light[]): number => lights.reduce((n, l) => Math.max(n, bytesOf(l)), 0);

/** Packs the blocks of lights, one after another. */
export function packLights(lights: readonly Light[]): { dc: Uint16Array; ac: Uint16Array } {
  const { bent } = scales();
  const corners = sum(lights, cornersOf);
  const own = room(largest(lights), bent.byteLength, errors.byteLength, corners * 2, corners * AT_MOST * 2);
  const [planesAt, bentAt, errorsAt, dcAt, acAt] = own.at;
  put(own, bentAt, bent);
  put(own, errorsAt, errors);
  let [dc, ac] = [dcAt, acAt];
  for (const light of lights) {
    const { planes, isPerceptual, width, rows } = light;
    planes.forEach((plane, c) => {
      put(own, planesAt + c * plane.byteLength, plane);
    });
    ac = own.loops.packLight(planesAt, planes.length, width, rows, isPerceptual ? 0 : bentAt, errorsAt, dc, ac);
    dc += cornersOf(light) * 2;
  }
  return {
    dc: new Uint16Array(own.memory, dcAt, corners).slice(),
    ac: new Uint16Array(own.memory, acAt, (ac - acAt) / 2).slice(),
  };
}

/** The halves again, into the planes. Throws where there are not words enough. */
export function unpackLights(lights: readonly Light[], dc: Uint16Array, ac: Uint16Array): void {
  const { linear } = scales();
  if (sum(lights, cornersOf) > dc.length) throw new Error('blocks are cut short');
  const own = room(dc.byteLength, ac.byteLength, linear.byteLength, largest(lights));
  const [dcAt, acAt, linearAt, planesAt] = own.at;
  put(own, dcAt, dc);
  put(own, acAt, ac);
  put(own, linearAt, linear);
  const end = acAt + ac.byteLength;
  let [corner, at] = [dcAt, acAt];
  for (const light of lights) {
    const { planes, isPerceptual, width, rows } = light;
    at = own.loops.unpackLight(corner, at, end, isPerceptual ? 0 : linearAt, planes.length, width, rows, planesAt);
    if (at === 0) throw new Error('blocks are cut short');
    planes.forEach((plane, c) => {
      plane.set(new Uint16Array(own.memory, planesAt + c * plane.byteLength, plane.length));
    });
    corner += cornersOf(light) * 2;
  }
}
