import { cropLayers, type FilmLayers } from '@/core/film';
import type { Display } from '@/core/image';
import { type Noise, noiseOf, type Rgb } from '@/core/stats';
import type { Area, Placement } from './place';
import type { StackBeside } from './stack-beside';

/** What a slot shows. */
export interface Shown {
  film: FilmLayers;
  place: Placement;
  /** Whether it is a picture made for the screen, which neither exposure nor look may change. */
  encoded?: boolean;
  /** What a stack over it needs beside it. */
  beside?: StackBeside;
}

/** Pixels of a frame. */
interface Box {
  x: number;
  y: number;
  w: number;
  h: number;
}

function meet(a: Box, b: Box): Box | null {
  const [x, y] = [Math.max(a.x, b.x), Math.max(a.y, b.y)];
  const w = Math.min(a.x + a.w, b.x + b.w) - x;
  const h = Math.min(a.y + a.h, b.y + b.h) - y;
  return w > 0 && h > 0 ? { x, y, w, h } : null;
}

function cropped(s: Shown, box: Box): Shown {
  const { place } = s;
  return {
    ...s,
    film: cropLayers(s.film, box.x - place.x, box.y - place.y, box.w, box.h),
    place: { width: place.width, height: place.height, ...box },
  };
}

/** Both cut to the pixels that both have; null where their frames differ in size or have none in common. */
export function overlap(a: Shown, b: Shown): { a: Shown; b: Shown } | null {
  if (a.place.width !== b.place.width || a.place.height !== b.place.height) return null;
  const box = meet(a.place, b.place);
  return box && { a: cropped(a, box), b: cropped(b, box) };
}

/** Figures of a part of a picture. */
export interface Within {
  noise: Noise | null;
  /** Share of the film's whole tracing time that was spent there; null when it is not kept. */
  costShare: number | null;
  pixels: number;
}

/** A film cut to an area given as fractions of its frame; null where it has none of it. */
export function croppedTo(s: Shown, area: Area): Shown | null {
  const { place } = s;
  const x = Math.floor(area.x * place.width);
  const y = Math.floor(area.y * place.height);
  const box = meet(place, {
    x,
    y,
    w: Math.max(1, Math.ceil((area.x + area.w) * place.width) - x),
    h: Math.max(1, Math.ceil((area.y + area.h) * place.height) - y),
  });
  return box && cropped(s, box);
}

/** Noise and share of the time within a box given as fractions of the frame; null where the film has none of it. */
export function within(s: Shown, area: Area, exposure: Display): Within | null {
  const part = croppedTo(s, area);
  if (!part) return null;
  const { film } = part;
  const rgb = (name: string) => film.layers.get(name)?.planes.slice(0, 3) as unknown as Rgb | undefined;
  const [a, b] = [rgb('half_a'), rgb('half_b')];
  const sum = (f: FilmLayers) => f.layers.get('cost')?.planes[0].reduce((n, v) => n + v, 0) ?? 0;
  const whole = sum(s.film);
  return {
    noise: a && b ? noiseOf(a, b, film.width, film.height, exposure) : null,
    costShare: whole > 0 ? sum(film) / whole : null,
    pixels: film.width * film.height,
  };
}
