import type { Strengths } from '@/core/denoise';

/** A trial's film, as it was rendered or as denoising left it: then which layers that changed, and how much of it is taken. */
export interface FilmOf {
  id: string;
  /** Tells films of one trial apart, before and after it went on. */
  film: string | null;
  denoised: { mark: string | null; layers: string[]; strengths: Strengths } | null;
}
