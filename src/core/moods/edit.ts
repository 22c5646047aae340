import { withoutNeutral } from './mix';
import { type Mix, type Mood, type Moods, withMix } from './schema';

/** Operations on the moods of a shot; each gives others. */

/** Another mix at hand. The mood that it was keeps its own. */
export const withNow = (moods: Moods, mix: Mix): Moods => ({
  ...moods,
  now: { ...moods.now, mix: withoutNeutral(mix) },
});

/** A mood at hand; null for the picture as rendered. */
export const taken = (moods: Moods, mood: Mood | null): Moods => ({
  ...moods,
  now: { mix: mood?.mix ?? {}, mood: mood?.id ?? null },
});

/** The mix at hand kept under a name: a new mood, or another mix of the one that has the name. */
export function kept(moods: Moods, name: string, id: string): Moods {
  const { now, list } = moods;
  const known = list.find((m) => m.name === name.trim());
  if (known)
    return {
      ...moods,
      now: { ...now, mood: known.id },
      list: list.map((m) => (m === known && !isSame(m.mix, now.mix) ? withMix(m, now.mix) : m)),
    };
  return {
    ...moods,
    now: { ...now, mood: id },
    list: [...list, { id, name: name.trim(), mix: now.mix, earlier: [] }],
  };
}

const isSame = (a: Mix, b: Mix): boolean => sortedText(a) === sortedText(b);
/** Databases give objects' keys in an order of their own. */
const sortedText = (mix: Mix): string =>
  JSON.stringify(
    Object.entries(withoutNeutral(mix))
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([g, { stops, on, color }]) => [g, stops, on, Object.entries(color).sort(([a], [b]) => (a < b ? -1 : 1))]),
  );

/** Whether the mix at hand is that of the mood it was last, or the picture as rendered where it was none. */
export function isKept({ now, list }: Moods): boolean {
  return isSame(now.mix, list.find((m) => m.id === now.mood)?.mix ?? {});
}

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
  const mix = mood?.earlier[which];
  if (!mood || !mix) return moods;
  const next = withMix({ ...mood, earlier: mood.earlier.filter((_, i) => i !== which) }, mix);
  return { ...moods, list: moods.list.map((m) => (m === mood ? next : m)), now: { mix, mood: id } };
}
