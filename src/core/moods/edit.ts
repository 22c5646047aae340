import { withoutNeutral } from './mix';
import { type Mix, type Mood, type Moods, type Timed, withMix } from './schema';
import { keyedAt } from './timed';

/** Operations on the moods of a shot; each gives others. */

/** Another mix at hand: where it changes over frames, of the frame that is looked at. The mood that it was keeps its own. */
export function withNow(moods: Moods, mix: Mix, frame?: number): Moods {
  const { now } = moods;
  const own = withoutNeutral(mix);
  const timed = now.keys.length > 0 && frame !== undefined ? keyedAt(now, frame, own) : { mix: own, keys: [] };
  return { ...moods, now: { ...now, ...timed } };
}

const timedOf = ({ mix, keys }: Timed): Timed => ({ mix, keys });

/** A mood at hand; null for the picture as rendered. */
export const taken = (moods: Moods, mood: Mood | null): Moods => ({
  ...moods,
  now: { ...(mood ? timedOf(mood) : { mix: {}, keys: [] }), mood: mood?.id ?? null },
});

/** The mix at hand kept under a name: a new mood, or another mix of the one that has the name. */
export function kept(moods: Moods, name: string, id: string): Moods {
  const { now, list } = moods;
  const known = list.find((m) => m.name === name.trim());
  if (known)
    return {
      ...moods,
      now: { ...now, mood: known.id },
      list: list.map((m) => (m === known && !isSame(m, now) ? withMix(m, timedOf(now)) : m)),
    };
  return {
    ...moods,
    now: { ...now, mood: id },
    list: [...list, { id, name: name.trim(), ...timedOf(now), earlier: [] }],
  };
}

const isSame = (a: Timed, b: Timed): boolean =>
  a.keys.length === b.keys.length &&
  sortedText(a.mix) === sortedText(b.mix) &&
  a.keys.every((k, i) => k.frame === b.keys[i].frame && sortedText(k.mix) === sortedText(b.keys[i].mix));
/** Databases give objects' keys in an order of their own. */
const sortedText = (mix: Mix): string =>
  JSON.stringify(
    Object.entries(withoutNeutral(mix))
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([g, { stops, on, color }]) => [g, stops, on, Object.entries(color).sort(([a], [b]) => (a < b ? -1 : 1))]),
  );

const PLAIN: Timed = { mix: {}, keys: [] };

/** Whether the mix at hand is that of the mood it was last, or the picture as rendered where it was none. */
export const isKept = ({ now, list }: Moods): boolean => isSame(now, list.find((m) => m.id === now.mood) ?? PLAIN);

export const renamed = (moods: Moods, id: string, name: string): Moods => ({
  ...moods,
  list: moods.list.map((m) => (m.id === id ? { ...m, name: name.trim() } : m)),
});

/** A mood at another place of the list. */
export function moved(moods: Moods, id: string, to: number): Moods {
  const mood = moods.list.find((m) => m.id === id);
  if (!mood) return moods;
  const others = moods.list.filter((m) => m !== mood);
  return { ...moods, list: [...others.slice(0, to), mood, ...others.slice(to)] };
}

/** Takes a mood away; its mix stays at hand where it is. */
export function forgotten(moods: Moods, id: string): Moods {
  const mood = moods.list.find((m) => m.id === id);
  if (!mood) return moods;
  return {
    ...moods,
    now: { ...moods.now, mood: moods.now.mood === id ? null : moods.now.mood },
    list: moods.list.filter((m) => m !== mood),
    forgotten: [mood, ...moods.forgotten],
  };
}

/** Brings a forgotten mood back, under a name that no other has. */
export function broughtBack(moods: Moods, id: string): Moods {
  const mood = moods.forgotten.find((m) => m.id === id);
  if (!mood) return moods;
  return {
    ...moods,
    forgotten: moods.forgotten.filter((m) => m !== mood),
    list: [...moods.list, { ...mood, name: freeName(moods, mood.name) }],
  };
}

/** A name that no mood has yet: this one, or with a number. */
export function freeName({ list }: Moods, name: string): string {
  const isFree = (n: string) => list.every((m) => m.name !== n);
  for (let k = 1; ; k++) {
    const own = k === 1 ? name : `${name.slice(0, 55)} ${k}`;
    if (isFree(own)) return own;
  }
}

/** What a mood was before, once more; what it is now can be had back in the same way. */
export function asEarlier(moods: Moods, id: string, which: number): Moods {
  const mood = moods.list.find((m) => m.id === id);
  const before = mood?.earlier[which];
  if (!mood || !before) return moods;
  const next = withMix({ ...mood, earlier: mood.earlier.filter((_, i) => i !== which) }, before);
  return { ...moods, list: moods.list.map((m) => (m === mood ? next : m)), now: { ...before, mood: id } };
}
