import { between, withoutNeutral } from './mix';
import type { Key, Mix, Timed } from './schema';

/** The mix at a frame: evenly between the keys about it, before the first and after the last as they are. `own` as for `between`. */
export function mixAt(
  { mix, keys }: Pick<Timed, 'mix' | 'keys'>,
  frame: number,
  own: Readonly<Record<string, readonly number[]>>,
): Mix {
  const next = keys.findIndex((k) => k.frame >= frame);
  if (keys.length === 0) return mix;
  if (next === 0 || keys[next]?.frame === frame) return keys[next].mix;
  if (next < 0) return keys[keys.length - 1].mix;
  const [a, b] = [keys[next - 1], keys[next]];
  return between(a.mix, b.mix, (frame - a.frame) / (b.frame - a.frame), own);
}

const ofKeys = (keys: Key[]): Timed => ({ mix: keys[0].mix, keys });

/** With a mix set at a frame, in the place of one that is there. */
export function keyedAt({ keys }: Pick<Timed, 'keys'>, frame: number, mix: Mix): Timed {
  const others = keys.filter((k) => k.frame !== frame);
  return ofKeys([...others, { frame, mix: withoutNeutral(mix) }].sort((a, b) => a.frame - b.frame));
}

/** Without the key at a frame; the last one stays as the mix of all frames. */
export function unkeyedAt({ mix, keys }: Pick<Timed, 'mix' | 'keys'>, frame: number): Timed {
  const others = keys.filter((k) => k.frame !== frame);
  return others.length > 0 ? ofKeys(others) : { mix, keys: [] };
}

/** With the key of a frame at another, in the place of one that is there. */
export function movedKey({ mix, keys }: Pick<Timed, 'mix' | 'keys'>, from: number, to: number): Timed {
  const key = keys.find((k) => k.frame === from);
  if (!key || from === to) return { mix, keys: [...keys] };
  return keyedAt({ keys: keys.filter((k) => k !== key) }, to, key.mix);
}

/** With every mix that is set made into another. */
export const eachMix = ({ mix, keys }: Pick<Timed, 'mix' | 'keys'>, to: (mix: Mix) => Mix): Timed => ({
  mix: to(mix),
  keys: keys.map((k) => ({ ...k, mix: to(k.mix) })),
});
