export const median = (v: readonly number[]): number => [...v].sort((a, b) => a - b)[v.length >> 1];
