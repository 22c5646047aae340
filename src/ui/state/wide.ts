import { useSyncExternalStore } from 'react';

const WIDE = '(color-gamut: p3)';

/** Whether the screen that the page is on has the colours of Display P3. */
export const isWide = (): boolean => globalThis.matchMedia?.(WIDE).matches ?? false;

function whenOther(hear: () => void): () => void {
  const list = globalThis.matchMedia?.(WIDE);
  list?.addEventListener('change', hear);
  return () => list?.removeEventListener('change', hear);
}

/** The same, and again when the page comes to another screen. */
export const useIsWide = (): boolean => useSyncExternalStore(whenOther, isWide, () => false);
