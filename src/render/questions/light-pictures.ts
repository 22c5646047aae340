import { LAYER, makeLayer } from '@/core/film';
import { displayOf } from '@/core/image';
import { type LightSource, lightSources } from '@/core/scene';
import { eachApart, meanLight } from '../advice/diagnosis/sources-apart';
import { cameraOf, type Patient } from '../advice/patient';
import { liveOf } from '../page/desk';
import type { SmallPicture } from '../views/place';
import { show } from '../views/show';
import type { Question } from './question';

/** A source of light as it is measured alone: its share of the light in the picture, and its light as a small picture. */
export interface LightPicture {
  source: LightSource;
  share: number;
  picture: SmallPicture | null;
}

/** Every source of light alone, rendered small. */
export const lightPictures: Question<{ patient: Patient }, LightPicture[]> = (desk, { patient }, { signal, onStep }) =>
  liveOf(desk).borrow(async (pool) => {
    const sources = lightSources(patient.document);
    const display = displayOf(cameraOf(patient).exposure, patient.document.look);
    const out: LightPicture[] = [];
    await eachApart(pool, desk.sceneOf, patient, sources, signal, (film, named) => {
      const whole = meanLight(film, 'beauty');
      for (const [group, source] of named) {
        const layer = makeLayer(film, LAYER.group(group));
        const { width, height } = film.spec.region;
        const shown =
          layer &&
          show(
            { width, height, layers: new Map([[layer.name, layer]]) },
            { kind: 'color', layer: layer.name },
            display,
            null,
          );
        out.push({
          source,
          share: whole > 0 ? meanLight(film, LAYER.group(group)) / whole : 0,
          picture: shown ? { width, height, pixels: shown.pixels } : null,
        });
      }
      onStep(out.length, sources.length, 'each source alone');
    });
    return out;
  });
