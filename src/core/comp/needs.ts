import { maskNeeds } from '../exr';
import { type Half, LAYER, layerInfo } from '../film';
import { IN_A, type StackDocument } from './document';
import type { MaskData } from './mask-schema';
import { type Entry, type Operation, type Source, type Stack, stackAt } from './stack';

/** A layer of a film, by the film's name among a stack's. */
export interface Need {
  film: string;
  layer: string;
}

/** What a mask takes of films, as masks of films are made. */
export const maskingOfItem = (item: MaskData, numbers: readonly number[] = []) =>
  item.kind === 'picked'
    ? { picked: { names: item.names, numbers }, ramp: null }
    : { picked: null, ramp: { layer: item.layer, channel: item.channel, from: item.low, to: item.high } };

const ofMask = (stack: Stack, name: string | null): Need[] =>
  (name === null ? [] : (stack.masks[name]?.of ?? [])).flatMap((item) =>
    item.kind === 'picked' || item.kind === 'ramp'
      ? maskNeeds(maskingOfItem(item)).map((layer) => ({ film: item.film, layer }))
      : [],
  );

const ofOperation = (o: Operation): Need[] =>
  o.does === 'focus' || o.does === 'haze' ? [{ film: o.film, layer: o.layer }] : [];

/** All light groups of a film. */
export const ALL_GROUPS = 'group.*';

/** The layer that a film's light comes from: of the picture in a mood, all its light groups. */
const litBy = ({ layer, mood }: Extract<Source, { from: 'film' }>): string =>
  mood !== null && layer === 'beauty' ? ALL_GROUPS : layer;

/** Layers that an entry cannot do without, those of what is in it left out. */
export function needsOf(stack: Stack, entry: Entry): Need[] {
  const own = entry.kind === 'operation' ? [entry.operation] : entry.operations;
  const light: Need[] =
    entry.kind === 'layer' && entry.source.from === 'film'
      ? [{ film: entry.source.film, layer: litBy(entry.source) }]
      : [];
  return [...light, ...ofMask(stack, entry.mask), ...own.flatMap(ofOperation)];
}

const deep = (entries: readonly Entry[]): Entry[] =>
  entries.flatMap((e) => (!e.on ? [] : e.kind === 'nest' ? [e, ...deep(e.entries)] : [e]));

/** Layers of one film that a stack reads, each once; with `alpha`, which films may have. */
export function layersOf(stack: Stack, film: string): string[] {
  const needs = deep(stack.entries).flatMap((e) => needsOf(stack, e));
  const layers = needs.filter((n) => n.film === film).map((n) => n.layer);
  return layers.length > 0 ? [...new Set([...layers, 'alpha'])] : [];
}

/** Names that a stack has for the film that is somewhere. */
const namesFor = ({ films }: Pick<Stack, 'films'>, where: string): string[] =>
  Object.keys(films).filter((name) => films[name] === where);

/** Names that a stack has for the film that A shows. */
export const shownIn = (stack: Pick<Stack, 'films'>): string[] => namesFor(stack, IN_A);

/** Layers that films of a shot must keep for its stack, at whatever frame; or those that are somewhere else than in A. */
export function stackNeeds(document: StackDocument, where: string = IN_A): string[] {
  const stack = stackAt(document, 1);
  const layers = namesFor(stack, where).flatMap((film) => layersOf(stack, film));
  return [...new Set(layers)].filter((n) => n !== 'beauty');
}

/** The layer that holds every other sample of a layer's light; null where films keep none of it. */
export function halfOf(layer: string, half: Half): string | null {
  if (layer === 'beauty') return LAYER.half(half);
  const { family, group } = layerInfo(layer);
  return family === 'group' && group !== null ? LAYER.half(half, group) : null;
}

/** What there is for a stack. */
export interface There {
  layer: (need: Need) => boolean;
  picture: (name: string) => boolean;
}

/** A stack with what lacks something switched off, and what is missing by where it stands; a picture by its name as its layer, of no film. */
export function fitted(stack: Stack, there: There): { stack: Stack; missing: Map<string, Need[]> } {
  const missing = new Map<string, Need[]>();
  const picturesOf = (e: Entry) =>
    e.kind === 'layer' && e.source.from === 'picture' && !there.picture(e.source.picture)
      ? [{ film: '', layer: e.source.picture }]
      : [];
  const fitAll = (entries: readonly Entry[], path: string): Entry[] =>
    entries.map((entry, i) => {
      const at = `${path}.${i}`;
      const lacks = [...needsOf(stack, entry).filter((n) => !there.layer(n)), ...picturesOf(entry)];
      if (lacks.length > 0) missing.set(at, lacks);
      const on = entry.on && lacks.length === 0;
      return entry.kind === 'nest'
        ? { ...entry, on, entries: fitAll(entry.entries, `${at}.entries`) }
        : ({ ...entry, on } as Entry);
    });
  return { stack: { ...stack, entries: fitAll(stack.entries, 'entries') }, missing };
}
