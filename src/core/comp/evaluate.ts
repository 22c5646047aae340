import { HeldPlanes, OfLast } from './held';
import type { MaskData } from './mask-schema';
import { masksOf } from './masks';
import { type Beside, operateWhole, type WholeOperation } from './operations';
import { wayOf } from './own-way';
import { type Picture, solid } from './picture';
import { type Entry, type Operation, type Source, type Stack, StackError } from './stack';
import { stepped, steppedAlone } from './stepped';
import type { Light, Step } from './steps';
import { inSpace, type Tone, toneOf } from './tones';

/** What a stack is made of, all of one size. */
export interface Sources extends Beside {
  width: number;
  height: number;
  /** Light of a film's layer, or of a picture, premultiplied, in the working space. */
  light(source: Exclude<Source, { from: 'solid' }>): Picture;
  /** What a mask takes of films, 0 to 1. */
  mask(item: MaskData): Float32Array;
}

const isIn = (e: Entry) => e.on && e.opacity > 0;

/** What was made for the last picture of a stack, for the next one over the same sources. */
class Made {
  readonly held = new HeldPlanes();
  readonly lights = new OfLast<Picture>();
  readonly masks = new OfLast<Float32Array>();

  next(): void {
    this.lights.next();
    this.masks.next();
  }
}

/** Goes through a stack: what can be done pixel by pixel is gathered, and done in one go where something needs the whole picture. */
class Evaluation {
  private readonly mask: ReturnType<typeof masksOf>;

  constructor(
    private readonly stack: Stack,
    private readonly sources: Sources,
    private readonly kept: Made,
  ) {
    this.mask = masksOf(stack.masks, sources, kept.masks);
  }

  private tone(o: Operation): Tone | 'nothing' | null {
    const { width, height } = this.sources;
    return toneOf(o, this.sources, this.stack.space, width, height);
  }

  /** Steps over what is below, or over nothing. */
  private over(below: Picture | null, steps: readonly Step[]): Picture {
    const { width, height } = this.sources;
    return below ? stepped(below, steps, this.kept.held) : steppedAlone(steps, width, height, this.kept.held);
  }

  /** A light as a picture. */
  private whole(light: Light): Picture {
    if ('planes' in light) return light;
    const { width, height } = this.sources;
    return 'steps' in light ? this.over(null, light.steps) : solid(width, height, light.rgb, light.alpha);
  }

  private light(entry: Exclude<Entry, { kind: 'operation' }>, at: string): Light {
    if (entry.kind === 'layer') {
      const { source } = entry;
      if (source.from !== 'solid') return this.kept.lights.of(source, () => this.sources.light(source));
      return { rgb: inSpace(source.rgb, this.stack.space), alpha: source.alpha };
    }
    const gathered = this.gather(entry.entries, `${at}.entries`, null);
    return gathered.below === null ? { steps: gathered.steps } : this.over(gathered.below, gathered.steps);
  }

  /** A layer with what is done to it: light, and what of it is left to be done pixel by pixel. */
  private layer(entry: Exclude<Entry, { kind: 'operation' }>, at: string): { light: Light; tones: Tone[] } {
    let light = this.light(entry, at);
    let tones: Tone[] = [];
    for (const o of entry.operations) {
      const tone = this.tone(o);
      if (tone === 'nothing') continue;
      if (tone) {
        tones.push(tone);
        continue;
      }
      const steps = tones.map((t): Step => ({ do: 'tone', tone: t, opacity: 1, mask: null }));
      light = operateWhole(this.over(this.whole(light), steps), o as WholeOperation, this.sources, this.stack.space);
      tones = [];
    }
    return { light, tones };
  }

  /** Steps over what is below (null for nothing), which is made whole where something needs it so. `passed` is asked for entries below which it is wanted. */
  private gather(
    entries: readonly Entry[],
    path: string,
    bottom: Picture | null,
    from = 0,
    wanted = -1,
    passed?: (below: Picture) => void,
  ): { below: Picture | null; steps: Step[] } {
    let below = bottom;
    let steps: Step[] = [];
    const made = (): Picture => {
      below = this.over(below, steps);
      steps = [];
      return below;
    };
    for (let i = from; i < entries.length; i++) {
      const entry = entries[i];
      if (i === wanted && i > from) passed?.(made());
      if (!isIn(entry)) continue;
      const { opacity } = entry;
      if (entry.kind === 'operation') {
        const tone = this.tone(entry.operation);
        if (tone === 'nothing') continue;
        const mask = this.mask(entry.mask);
        if (tone) steps.push({ do: 'tone', tone, opacity, mask });
        else {
          const before = made();
          const after = operateWhole(before, entry.operation as WholeOperation, this.sources, this.stack.space);
          if (after === before) continue;
          if (opacity === 1 && mask === null) below = after;
          else steps.push({ do: 'replace', by: after, opacity, mask });
        }
        continue;
      }
      const at = `${path}.${i}`;
      const own = entry.kind === 'nest' ? 'over' : wayOf(entry.source);
      const way = entry.way === 'by itself' ? own : entry.way;
      if (way === null) throw new StackError(`${at}.source`, 'data never shows: use it as a mask, or say how it joins');
      steps.push({ do: 'join', ...this.layer(entry, at), way, opacity, mask: this.mask(entry.mask) });
    }
    return { below, steps };
  }

  /** Its only entry over what is below; faults name the place where that stands. */
  one(bottom: Picture | null, path: string): Picture {
    const at = path.lastIndexOf('.');
    const before = new Array<Entry>(Number(path.slice(at + 1)));
    const { below, steps } = this.gather([...before, ...this.stack.entries], path.slice(0, at), bottom, before.length);
    return this.over(below, steps);
  }

  run(bottom: Picture | null, from: number, wanted: number, passed: (below: Picture) => void): Picture {
    const { below, steps } = this.gather(this.stack.entries, 'entries', bottom, from, wanted, passed);
    return this.over(below, steps);
  }
}

/**
 * What was made of a stack last, for making it anew over the same sources: what lies below the entry that has changed is kept. One that is dragged
 * takes no more than itself and what is above it.
 */
export class StackMemo {
  private keys: string[] = [];
  private kept: { at: number; below: Picture } | null = null;
  private readonly made = new Made();

  evaluate(stack: Stack, sources: Sources): Picture {
    const { entries, masks, space } = stack;
    const keys = entries.map((e) =>
      JSON.stringify([space, e, e.kind === 'nest' ? masks : e.mask === null ? null : masks[e.mask]]),
    );
    const differs = keys.findIndex((key, i) => key !== this.keys[i]);
    const changed = differs < 0 ? Math.min(keys.length, this.keys.length) : differs;
    const from = this.kept && this.kept.at <= changed ? this.kept.at : 0;
    const bottom = from > 0 && this.kept ? this.kept.below : null;
    const at = Math.min(changed, entries.length - 1);
    if (from === 0) this.kept = null;
    this.made.next();
    const out = new Evaluation(stack, sources, this.made).run(bottom, from, at, (below) => {
      this.kept = { at, below };
    });
    this.keys = keys;
    return out;
  }
}

/** A stack of one entry over what is below, which stands at `path` of a whole one. */
export const run = (stack: Stack, sources: Sources, below: Picture | null, path: string): Picture =>
  new Evaluation(stack, sources, new Made()).one(below, path);

/** A stack as a picture: its entries from the bottom up, beginning with nothing. Throws `StackError` for a layer that never shows. */
export const evaluate = (stack: Stack, sources: Sources): Picture => new StackMemo().evaluate(stack, sources);
