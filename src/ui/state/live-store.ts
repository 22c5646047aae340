import { create } from 'zustand';
import type { LiveStatus } from '@/render/page/told';

/** What the live picture is at: changes several times a second, so it is read by selectors alone. Null until the worker is there. */
export const useLive = create<{ status: LiveStatus | null }>(() => ({ status: null }));

/** Whether the film worker can be asked. */
export const useReady = (): boolean => useLive((s) => s.status !== null);
