import { FramesError, parseFrames } from '@/core/runs';
import { UsageError } from './args';

/** Frames of `--frames`, such as 1-10,15,20-48x2. */
export function framesOf(text: string, within?: { first: number; last: number }): number[] {
  try {
    return parseFrames(text, within);
  } catch (error) {
    throw error instanceof FramesError ? new UsageError(`--frames ${error.message}`) : error;
  }
}
