import type { Sources } from '../evaluate';
import { OfLast } from '../held';
import { masksOf } from '../masks';
import { wayOf } from '../own-way';
import { blank, type Picture, solid } from '../picture';
import { type Entry, type Source, type Stack, StackError } from '../stack';
import { blend, join } from './join';
import { operate } from './operate';
import { coloured } from './tone';

class Evaluation {
  private readonly mask: ReturnType<typeof masksOf>;

  constructor(
    private readonly stack: Stack,
    private readonly sources: Sources,
  ) {
    this.mask = masksOf(stack.masks, sources, new OfLast());
  }

  private light(source: Source): Picture {
    const { width, height } = this.sources;
    return source.from === 'solid'
      ? solid(width, height, coloured(source.rgb, this.stack.space), source.alpha)
      : this.sources.light(source);
  }

  /** Entries from the bottom up, over what is below. */
  run(entries: readonly Entry[], path: string, bottom: Picture): Picture {
    let below = bottom;
    entries.forEach((entry, i) => {
      if (!entry.on || entry.opacity === 0) return;
      const mask = this.mask(entry.mask);
      if (entry.kind === 'operation') {
        below = blend(below, operate(below, entry.operation, this.sources, this.stack.space), entry.opacity, mask);
        return;
      }
      const at = `${path}.${i}`;
      const own = entry.kind === 'nest' ? 'over' : wayOf(entry.source);
      const way = entry.way === 'by itself' ? own : entry.way;
      if (way === null) throw new StackError(`${at}.source`, 'data never shows: use it as a mask, or say how it joins');
      const { width, height } = this.sources;
      const raw =
        entry.kind === 'nest'
          ? this.run(entry.entries, `${at}.entries`, blank(width, height))
          : this.light(entry.source);
      const layer = entry.operations.reduce((p, o) => operate(p, o, this.sources, this.stack.space), raw);
      below = join(below, layer, way, entry.opacity, mask);
    });
    return below;
  }
}

/** A stack as a picture, one entry after the other over whole pictures: what the loops are held against. */
export const evaluatePlainly = (stack: Stack, sources: Sources): Picture =>
  new Evaluation(stack, sources).run(stack.entries, 'entries', blank(sources.width, sources.height));
