import { pictureExr, shownFile } from '@/core/comp';
import { type StackOver, stackPicture, unscaled } from '../views/stack';
import { deflateInPage } from '../zlib/in-page';
import type { Question } from './question';
import { filmOfA } from './stack-film';

/** The picture that a stack makes of the film of A as a file's bytes: OpenEXR as it is, PNG and TIFF of 16 bits as shown. */
export const stackFile: Question<{ over: StackOver; as: 'exr' | 'png' | 'tiff' }, Uint8Array> = async (
  desk,
  { over, as },
) => {
  const beside = await desk.besides.of(over);
  const { film, place } = await filmOfA(desk, ['beauty', ...over.layers]);
  const picture = stackPicture(over, film, place, beside);
  const { stack } = over;
  if (as !== 'exr')
    return shownFile(picture, as, stack, unscaled(desk.sceneExposure, over.scale), (name) => beside.tables.get(name));
  const header = {
    attributes: {},
    dataWindow: { xMin: place.x, yMin: place.y, xMax: place.x + place.w - 1, yMax: place.y + place.h - 1 },
    displayWindow: { xMin: 0, yMin: 0, xMax: place.width - 1, yMax: place.height - 1 },
  };
  return pictureExr(picture, { stack: stack.name, header, space: stack.space }, deflateInPage);
};
