/** Bounds of advice, for those who give it and those who show it. */

/** Lifts of a light group beyond these stops are not asked about. */
export const MOST_STOPS = 6;
/** Samples up to which denoising is predicted: four times what is tried of it. */
export const MOST_TOLD = 64;
/** Samples dealt out lie between these multiples of the even ones. */
export const [LEAST_OF_EVEN, MOST_OF_EVEN] = [1 / 4, 8];
