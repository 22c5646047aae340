import { fromHalf } from '@/core/exr';
import { type FilmLayers, isData, type Layer } from '@/core/film';

/** Layers of trials as fetched, the least recently used dropped beyond a byte limit. */
export class FilmCache {
  private readonly layers = new Map<string, Promise<{ layer: Layer; width: number; height: number }>>();
  private readonly sizes = new Map<string, number>();
  private total = 0;

  constructor(private readonly mostBytes = 2 ** 30) {}

  private fetchLayer(trial: string, name: string): Promise<{ layer: Layer; width: number; height: number }> {
    const key = `${trial}/${name}`;
    const known = this.layers.get(key);
    if (known) {
      this.layers.delete(key);
      this.layers.set(key, known);
      return known;
    }
    const made = this.load(key, trial, name);
    this.layers.set(key, made);
    made.catch(() => this.layers.delete(key));
    return made;
  }

  private async load(
    key: string,
    trial: string,
    name: string,
  ): Promise<{ layer: Layer; width: number; height: number }> {
    const response = await fetch(`/api/trials/${trial}/layers/${encodeURIComponent(name)}`);
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

  /** The named layers of a trial, as a film. */
  async film(trial: string, names: string[]): Promise<FilmLayers> {
    const loaded = await Promise.all(names.map((n) => this.fetchLayer(trial, n)));
    return {
      width: loaded[0].width,
      height: loaded[0].height,
      layers: new Map(loaded.map((l) => [l.layer.name, l.layer])),
    };
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
