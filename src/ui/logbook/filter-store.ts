import { create } from 'zustand';

/** Which trials the logbook lists. */
export const useFilter = create<{ text: string; starred: boolean }>(() => ({ text: '', starred: false }));
