import { type Room as AnyRoom, roomsOf } from '../../wasm';
import { HOT } from './hot-bytes';

/** Addresses and numbers of bytes, words or values; what each does stands beside it in `assembly`. */
export interface Loops {
  freeFrom(): number;
  addUp(at: number, n: number): void;
  takeApart(from: number, to: number, n: number): void;
  takeDifferences(at: number, n: number): void;
  putTogether(from: number, to: number, n: number): void;
  floatsApart(low: number, high: number, to: number, count: number): void;
  toFloats(from: number, to: number, count: number): void;
  toHalves(from: number, to: number, count: number): void;
  largestFinite(from: number, count: number): number;
  addLosses(from: number, count: number, to: number): void;
  packRuns(from: number, n: number, to: number, most: number): number;
  unpackRuns(from: number, n: number, to: number, most: number): number;
  toWavelets(at: number, nx: number, ny: number, ox: number, oy: number, isNarrow: boolean): void;
  fromWavelets(at: number, nx: number, ny: number, ox: number, oy: number, isNarrow: boolean): void;
  encode(words: number, n: number, codes: number, run: number, to: number): number;
  decode(
    from: number,
    bits: number,
    table: number,
    first: number,
    counts: number,
    begins: number,
    symbols: number,
    run: number,
    to: number,
    most: number,
  ): number;
  takeRowApart(from: number, width: number, kept: number, to: number): void;
  putRowTogether(from: number, width: number, kept: number, to: number): void;
  packSquares(plane: number, width: number, rows: number, curve: number, isFlat: boolean, to: number): number;
  unpackSquares(from: number, end: number, width: number, rows: number, curve: number, plane: number): number;
  toFrequencies(block: number): void;
  toValues(block: number): void;
  fewestBits(value: number, error: number): number;
  packLight(
    planes: number,
    channels: number,
    width: number,
    rows: number,
    bent: number,
    errors: number,
    dc: number,
    ac: number,
  ): number;
  unpackLight(
    dc: number,
    ac: number,
    end: number,
    linear: number,
    channels: number,
    width: number,
    rows: number,
    planes: number,
  ): number;
}

/** What loops that read give where they find a fault. */
export const FAULTS = { beyondTheEnd: -1, noCode: -2, tooMany: -3 } as const;

export type Room = AnyRoom<Loops>;
export { put } from '../../wasm';

/** Takes room for pieces of so many bytes each. */
export const room = roomsOf<Loops>(HOT);
