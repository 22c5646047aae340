import { layerInfo } from '../film';
import { blend, join, type Way } from './join';
import type { MaskData } from './mask-schema';
import { maskPlane } from './masks';
import { type Beside, operate } from './operations';
import { blank, type Picture, solid } from './picture';
import { type Entry, type Source, type Stack, StackError } from './stack';

/** What a stack is made of, all of one size. */
export interface Sources extends Beside {
  width: number;
  height: number;
  /** Light of a film's layer, or of a picture, premultiplied, in the working space. */
  light(source: Exclude<Source, { from: 'solid' }>): Picture;
  /** What a mask takes of films, 0 to 1. */
  mask(item: MaskData): Float32Array;
}

/**
 * How a layer joins by what it is: a picture stands over what is below, parts of it add up, openness and shadow hold back. Null for what never shows:
 * data, halves and masks.
 */
export function wayOf(source: Source): Way | null {
  if (source.from !== 'film') return 'over';
  const { family } = layerInfo(source.layer);
  if (source.layer === 'occlusion') return 'occlude';
  if (source.layer === 'shadow' || source.layer === 'shadowing') return 'shadow';
  if (family === 'beauty') return 'over';
  if (['group', 'class', 'pair', 'bounce', 'rest', 'lost'].includes(family) || source.layer === 'unshadowed')
    return 'add';
  return null;
}

class Evaluation {
  private readonly masks = new Map<string, Float32Array>();

  constructor(
    private readonly stack: Stack,
    private readonly sources: Sources,
  ) {}

  private mask(name: string | null): Float32Array | null {
    if (name === null) return null;
    const { width, height } = this.sources;
    const known =
      this.masks.get(name) ?? maskPlane(this.stack.masks[name], width, height, (item) => this.sources.mask(item));
    this.masks.set(name, known);
    return known;
  }

  private light(source: Source): Picture {
    const { width, height } = this.sources;
    return source.from === 'solid' ? solid(width, height, source.rgb, source.alpha) : this.sources.light(source);
  }

  /** Entries from one on, from the bottom up, over what is below. `passed` is told what is below each. */
  run(
    entries: readonly Entry[],
    path: string,
    bottom: Picture,
    from = 0,
    passed?: (i: number, below: Picture) => void,
  ): Picture {
    let below = bottom;
    entries.forEach((entry, i) => {
      if (i < from) return;
      passed?.(i, below);
      if (!entry.on || entry.opacity === 0) return;
      const mask = this.mask(entry.mask);
      if (entry.kind === 'operation') {
        below = blend(below, operate(below, entry.operation, this.sources), entry.opacity, mask);
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
      const layer = entry.operations.reduce((p, o) => operate(p, o, this.sources), raw);
      below = join(below, layer, way, entry.opacity, mask);
    });
    return below;
  }
}

/**
 * What was made of a stack last, for making it anew over the same sources: what lies below the entry that has changed is kept. One that is dragged
 * takes no more than itself and what is above it.
 */
export class StackMemo {
  private keys: string[] = [];
  private kept: { at: number; below: Picture } | null = null;

  /** How far what is kept reaches, and where the stack has changed. */
  private since(keys: string[]): { from: number; changed: number } {
    const differs = keys.findIndex((key, i) => key !== this.keys[i]);
    const changed = differs < 0 ? Math.min(keys.length, this.keys.length) : differs;
    return { from: this.kept && this.kept.at <= changed ? this.kept.at : 0, changed };
  }

  evaluate(stack: Stack, sources: Sources): Picture {
    const { entries, masks } = stack;
    const keys = entries.map((e) =>
      JSON.stringify([e, e.kind === 'nest' ? masks : e.mask === null ? null : masks[e.mask]]),
    );
    const { from, changed } = this.since(keys);
    const bottom = from > 0 && this.kept ? this.kept.below : blank(sources.width, sources.height);
    const out = new Evaluation(stack, sources).run(entries, 'entries', bottom, from, (i, below) => {
      if (i === Math.min(changed, entries.length - 1)) this.kept = { at: i, below };
    });
    this.keys = keys;
    return out;
  }
}

/** A stack as a picture: its entries from the bottom up, beginning with nothing. Throws `StackError` for a layer that never shows. */
export const evaluate = (stack: Stack, sources: Sources): Picture => new StackMemo().evaluate(stack, sources);
