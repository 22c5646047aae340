import { QUICK_LAYERS, QuickFilter } from '@/core/denoise';
import type { FilmLayers } from '@/core/film';
import type { LiveRender } from './live';

/** Smooths the live picture for looking at it; figures and the readout go on being of what was rendered. */
export class Smoothing {
  private filter: QuickFilter | null = null;

  /** Compiles the filter the first time. */
  async ready(): Promise<void> {
    this.filter ??= new QuickFilter(await WebAssembly.compileStreaming(fetch('/wasm/denoise.wasm')));
  }

  /** The live film with a smoothed beauty; as it is where it lacks what that takes. */
  of(live: LiveRender, film: FilmLayers): FilmLayers {
    const beauty = film.layers.get('beauty');
    if (!this.filter || !beauty) return film;
    const layers = new Map(film.layers);
    for (const name of QUICK_LAYERS) {
      const layer = live.layers([name])?.layers.get(name);
      if (layer?.planes[0].length === beauty.planes[0].length) layers.set(name, layer);
    }
    const planes = this.filter.smooth({ ...film, layers });
    return planes ? { ...film, layers: new Map([...film.layers, ['beauty', { ...beauty, planes }]]) } : film;
  }
}
