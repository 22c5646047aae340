import type { Run } from '@/contract/run';

/** What the pictures of a run are called: by their outputs. */
export function pictureNames({ variants, outputs }: Run): string[] {
  return variants.map((v) => {
    const own = outputs.list.filter((o) => JSON.stringify(o.variant ?? {}) === JSON.stringify(v ?? {}));
    return v === null || Object.keys(v).length === 0 ? 'the shot’s own' : own.map((o) => o.name).join(', ');
  });
}
