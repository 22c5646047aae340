import type { FilmDesk } from '../page/desk';

/** What long work is given: its stop, and somebody who hears how far it has come. */
export interface Asking {
  signal: AbortSignal;
  onStep: (done: number, of: number, words: string) => void;
}

/**
 * A question the page may ask of the film worker. It throws in words where it cannot be answered; buffers of an answer are
 * copied to the page.
 */
export type Question<In, Out> = (desk: FilmDesk, asked: In, asking: Asking) => Out | Promise<Out>;
