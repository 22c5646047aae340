// The loops that packing and unpacking spend their time in. Each works on memory that its caller has laid out.
export { toFrequencies, toValues } from './cosines';
export { addLosses, largestFinite, toFloats, toHalves } from './halves';
export { decode, encode } from './huffman';
export { fewestBits, packLight, unpackLight } from './light';
export { addUp, floatsApart, putTogether, takeApart, takeDifferences } from './predictor';
export { putRowTogether, takeRowApart } from './rows24';
export { packRuns, unpackRuns } from './runs';
export { packSquares, unpackSquares } from './squares';
export { fromWavelets, toWavelets } from './wavelet';

/** Where memory begins that no loop keeps anything in. */
export function freeFrom(): usize {
  return __heap_base;
}
