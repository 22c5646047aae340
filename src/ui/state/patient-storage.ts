import type { PersistStorage, StorageValue } from 'zustand/middleware';

/** Milliseconds of rest after which a change is written. */
const REST_MS = 400;

/**
 * Keeps a store in the browser once it has been left alone for a moment, and when the page goes: a drag changes it a hundred
 * times, and is written once.
 */
export function patientStorage<T>(
  restMs = REST_MS,
  { storage, page }: { storage?: Storage; page?: EventTarget } = typeof window === 'undefined'
    ? {}
    : { storage: window.localStorage, page: window },
): PersistStorage<T> {
  const waiting = new Map<string, StorageValue<T>>();
  let timer: ReturnType<typeof setTimeout> | null = null;
  const flush = () => {
    if (timer !== null) clearTimeout(timer);
    timer = null;
    for (const [name, value] of waiting) {
      try {
        storage?.setItem(name, JSON.stringify(value));
      } catch {
        // A browser without room keeps what it has.
      }
    }
    waiting.clear();
  };
  page?.addEventListener('pagehide', flush);
  return {
    getItem: (name) => {
      const text = storage?.getItem(name) ?? null;
      if (text === null) return null;
      try {
        return JSON.parse(text) as StorageValue<T>;
      } catch {
        return null;
      }
    },
    setItem: (name, value) => {
      waiting.set(name, value);
      if (timer !== null) clearTimeout(timer);
      timer = setTimeout(flush, restMs);
    },
    removeItem: (name) => {
      waiting.delete(name);
      storage?.removeItem(name);
    },
  };
}
