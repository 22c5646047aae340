/** Lets the host do other things before the next chunk: packings that take long run on the thread that asks for them. */
export const pause = (): Promise<void> => new Promise((resolve) => setTimeout(resolve));
