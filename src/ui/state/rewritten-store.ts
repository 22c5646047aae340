import { create } from 'zustand';
import type { Rewritten } from '@/render/advice/rewritten';

/** What came of the mix that was written to the lights last. */
type State =
  | { state: 'none' }
  | { state: 'tracing'; done: number; of: number }
  | { state: 'told'; told: Rewritten }
  | { state: 'failed'; fault: string };

export const useRewritten = create<State>(() => ({ state: 'none' }));
