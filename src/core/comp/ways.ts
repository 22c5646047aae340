/** Ways in which a layer joins what is below it. */
export const WAYS = ['over', 'add', 'subtract', 'multiply', 'divide', 'screen', 'shadow', 'occlude'] as const;
export type Way = (typeof WAYS)[number];

/**
 * What each way makes of F above B at m, the opacity of the effect times its mask, 0 to 1. Colours premultiplied, α alpha. Screen is no operation of light
 * beyond white, only a continuation: it meets at 1 without a step, and is never below what goes in.
 */
export const WAY_WORDS: Record<Way, string> = {
  over: 'B·(1 − α_F·m) + F·m [Porter & Duff 1984]',
  add: 'B + m·F',
  subtract: 'B − m·F',
  multiply: 'B·(1 − m + m·F)',
  divide: 'B / (1 − m + m·F); B where the divisor is not above 1e-6',
  screen: 'B + m·(F − F·B) where both are from 0 to 1; where one is beyond, the larger of both, blended by m',
  shadow: 'B·(1 − m·F), F the share of light that is kept away',
  occlude: 'B·(1 − m·(1 − F)), F openness',
};
