import type { Cause } from './causes';

const few = (names: readonly string[]): string =>
  names.length > 4 ? `${names.slice(0, 3).join(', ')} and ${names.length - 3} more` : names.join(', ');
const percent = (share: number): string => `${(share * 100).toPrecision(3)} %`;
const are = (names: readonly string[], one: string, many: string): string => (names.length === 1 ? one : many);

/** A cause and its cheapest repair, in one sentence each. */
export function causeWords(cause: Cause): { cause: string; repair: string } {
  switch (cause.kind) {
    case 'overflow':
      return {
        cause: `${few(cause.layers)} ${are(cause.layers, 'ends', 'end')} at the largest value of half, 65504, or became infinite`,
        repair: 'write it as float',
      };
    case 'ceiling':
      return {
        cause: `${few(cause.layers)} ${are(cause.layers, 'is', 'are')} cut at ${Number(cause.at.toPrecision(4))}, in ${percent(cause.share)} of the pixels`,
        repair: 'write scene-linear values without a limit',
      };
    case 'eight-bit':
      return {
        cause: `${few(cause.layers)} ${are(cause.layers, 'holds', 'hold')} nothing but steps of eight bits`,
        repair: 'write half or float from the render itself',
      };
    case 'misnamed':
      return {
        cause: `what is missing is the layer ${cause.layer}, which is not named as a part`,
        repair: 'give it a part’s name',
      };
    case 'gain':
      if (cause.factor === Number.POSITIVE_INFINITY)
        return { cause: `the beauty has nothing of ${cause.layer}`, repair: `leave ${cause.layer} out` };
      return {
        cause: `${cause.layer} is ${Number(cause.factor.toPrecision(4))} times what it should be`,
        repair: `multiply it by ${Number((1 / cause.factor).toPrecision(4))}`,
      };
    case 'matrix':
      return {
        cause: `colours of ${cause.layer} went through a constant matrix${cause.pair ? `, that from ${cause.pair[0]} to ${cause.pair[1]}` : ''}: a wrong colour tag`,
        repair: cause.pair ? `read ${cause.layer} as ${cause.pair[1]}` : 'read all layers in the same colour space',
      };
    case 'curve':
      return {
        cause: `${cause.layers === 'all' ? 'all layers carry' : `the ${cause.layers} ${cause.layers === 'beauty' ? 'carries' : 'carry'}`} a curve for displays, ${cause.curve}`,
        repair: 'write scene-linear values, and leave the curve to the display',
      };
    case 'glow':
      return {
        cause: `the beauty has a glow around what is bright, ${percent(cause.share)} of its light`,
        repair: 'add the glow after the parts are joined',
      };
  }
}
