import { create } from 'zustand';
import type { SceneDocument } from '@/core/scene';
import type { Rewritten } from '@/render/advice/rewritten';

/** What came of the mix that was written to the lights last; `to`: the scene as it then was. */
type State =
  | { state: 'none' }
  | ({ to: SceneDocument } & (
      | { state: 'tracing'; done: number; of: number }
      | { state: 'told'; told: Rewritten }
      | { state: 'failed'; fault: string }
    ));

export const useRewritten = create<State>(() => ({ state: 'none' }));
