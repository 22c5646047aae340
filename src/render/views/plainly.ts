/** Before the name of a layer of a denoised film that is wanted as it was rendered. */
export const PLAIN = 'plain.';

/** The name of a layer as it was rendered, of a film that is looked at denoised. */
export const plainly = (name: string): string => `${PLAIN}${name}`;
