import { run, type Sources } from './evaluate';
import { blank, type Picture } from './picture';
import type { Entry, Stack } from './stack';

const isIn = (e: Entry) => e.on && e.opacity > 0;

/** What stands for a nest that has been made: a picture that no stack names. */
const MADE = '';

/**
 * A stack as a picture, one entry after the other, each with what it needs alone: no more than that, the picture below and the one that is made are in memory at once, however many
 * layers there are. Bit for bit what `evaluate` makes. `sourcesFor` gives what an entry needs, what is in a nest left out. Throws `StackError`.
 */
export async function evaluateInTurn(
  stack: Stack,
  size: { width: number; height: number },
  sourcesFor: (entry: Entry) => Promise<Sources>,
): Promise<Picture> {
  const over = async (entries: readonly Entry[], path: string): Promise<Picture> => {
    let below: Picture | null = null;
    for (const [i, entry] of entries.entries()) {
      if (!isIn(entry)) continue;
      const at = `${path}.${i}`;
      if (entry.kind !== 'nest') {
        below = run({ ...stack, entries: [entry] }, await sourcesFor(entry), below, at);
        continue;
      }
      const inner = await over(entry.entries, `${at}.entries`);
      const { entries: _, ...own } = entry;
      const made: Entry = { ...own, kind: 'layer', source: { from: 'picture', picture: MADE } };
      const sources = await sourcesFor(entry);
      below = run({ ...stack, entries: [made] }, { ...sources, light: () => inner }, below, at);
    }
    return below ?? blank(size.width, size.height);
  };
  return over(stack.entries, 'entries');
}
