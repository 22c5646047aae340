import { blendLayer, neededToBlend } from '@/core/denoise';
import { fromHalf } from '@/core/exr';
import { type FilmLayers, isData, type Layer } from '@/core/film';
import type { FilmOf } from '../views/film-of';
import { PLAIN } from '../views/plainly';

/** Where a layer lies: in a trial's film, or in what denoising made of it. */
type From = 'layers' | 'denoised/layers';

/** Layers of trials as fetched, the least recently used dropped beyond a byte limit. */
export class FilmCache {
  private readonly layers = new Map<string, Promise<{ layer: Layer; width: number; height: number }>>();
  private readonly sizes = new Map<string, number>();
  private total = 0;

  constructor(private readonly mostBytes = 2 ** 30) {}

  private fetchLayer(of: FilmOf, name: string, from: From): Promise<{ layer: Layer; width: number; height: number }> {
    const key = `/api/trials/${of.id}/${from}/${encodeURIComponent(name)}?film=${of.film ?? ''}${from === 'layers' ? '' : `&made=${of.denoised?.mark ?? ''}`}`;
    const known = this.layers.get(key);
    if (known) {
      this.layers.delete(key);
      this.layers.set(key, known);
      return known;
    }
    const made = this.load(key, name);
    this.layers.set(key, made);
    made.catch(() => this.layers.delete(key));
    return made;
  }

  private async load(key: string, name: string): Promise<{ layer: Layer; width: number; height: number }> {
    const response = await fetch(key);
    if (!response.ok)
      throw new Error((await response.json().catch(() => null))?.error?.message ?? `layer ${name}: ${response.status}`);
    const width = Number(response.headers.get('x-width'));
    const height = Number(response.headers.get('x-height'));
    const channels = (response.headers.get('x-channels') ?? '').split(',');
    const all = new Float32Array(await response.arrayBuffer());
    const size = width * height;
    const planes = channels.map((_, i) => all.subarray(i * size, (i + 1) * size));
    this.sizes.set(key, all.byteLength);
    this.total += all.byteLength;
    for (const old of this.layers.keys()) {
      if (this.total <= this.mostBytes || old === key) break;
      this.layers.delete(old);
      this.total -= this.sizes.get(old) ?? 0;
      this.sizes.delete(old);
    }
    return { layer: { name, channels, planes, kind: isData(name) ? 'data' : 'color' }, width, height };
  }

  private async fetched(of: FilmOf, names: Iterable<string>, from: From): Promise<FilmLayers> {
    const loaded = await Promise.all([...new Set(names)].map((n) => this.fetchLayer(of, n, from)));
    return {
      width: loaded[0]?.width ?? 0,
      height: loaded[0]?.height ?? 0,
      layers: new Map(loaded.map((l) => [l.layer.name, l.layer])),
    };
  }

  /** The named layers of a trial's film, as it was rendered or as denoising left it, then also names by `plainly`. */
  async film(of: FilmOf, names: readonly string[]): Promise<FilmLayers> {
    const { denoised } = of;
    if (!denoised) return this.fetched(of, names, 'layers');
    const { layers: kept, strengths } = denoised;
    const bare = names.map((n) => (n.startsWith(PLAIN) ? n.slice(PLAIN.length) : n));
    const changed = bare.filter((n, i) => n === names[i] && kept.includes(n));
    const needed = changed.flatMap((n) => neededToBlend(n, kept, strengths));
    const [plain, made] = await Promise.all([
      this.fetched(of, [...needed, ...bare.filter((n, i) => n !== names[i] || !kept.includes(n))], 'layers'),
      this.fetched(of, needed, 'denoised/layers'),
    ]);
    const layers = names.map((name, i): [string, Layer] => [
      name,
      changed.includes(name) ? blendLayer(name, kept, plain, made, strengths) : plain.layers.get(bare[i])!,
    ]);
    return { ...plain, layers: new Map(layers) };
  }
}

/** What a trial in progress has so far, as a film with a beauty; null before there is anything. */
export async function fetchPreview(trial: string): Promise<FilmLayers | null> {
  const response = await fetch(`/api/trials/${trial}/preview`);
  if (response.status !== 200) return null;
  const width = Number(response.headers.get('x-width'));
  const height = Number(response.headers.get('x-height'));
  const halves = new Uint16Array(await response.arrayBuffer());
  const size = width * height;
  const planes = [0, 1, 2].map((c) => Float32Array.from(halves.subarray(c * size, (c + 1) * size), fromHalf));
  return {
    width,
    height,
    layers: new Map([['beauty', { name: 'beauty', channels: ['R', 'G', 'B'], planes, kind: 'color' }]]),
  };
}
