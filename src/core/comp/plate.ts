import {
  between,
  type Chromaticities,
  type DecodedPicture,
  decodeSrgb,
  planesThrough,
  type Space,
  type WorkingSpace,
  whiteOf,
} from '../image';
import type { Picture } from './picture';
import type { Plate } from './stack';

/** The space that a plate's light is in: what is said of it, else what its file says, else Rec.709. */
export const spaceOfPlate = (
  { space }: Pick<Plate, 'space'>,
  { primaries }: Pick<DecodedPicture, 'primaries'>,
): Space | Chromaticities => (space === 'as the file says' ? (primaries ?? 'Rec.709') : space);

/** A picture of a file in linear light of a working space, premultiplied. All levels of 16 bits stay apart; what is no number is black. */
export function plateOf(
  p: DecodedPicture,
  plate: Pick<Plate, 'encoding' | 'alpha' | 'space'>,
  working: WorkingSpace,
): Picture {
  const { encoding, alpha } = plate;
  const { width, height, channels, values } = p;
  const white = whiteOf(values);
  const decode = encoding === 'srgb' ? decodeSrgb : (v: number) => v;
  const levels = white === 1 ? null : Float32Array.from({ length: white + 1 }, (_, i) => decode(i / white));
  const hasAlpha = p.alpha !== null && alpha !== 'none';
  const isStraight = (alpha === 'as the file says' ? p.alpha : alpha) === 'straight';
  const size = width * height;
  const plane = () => new Float32Array(size);
  const planes: [Float32Array, Float32Array, Float32Array, Float32Array] = [plane(), plane(), plane(), plane()];
  for (let i = 0; i < size; i++) {
    const a = hasAlpha ? values[(i + 1) * channels - 1] / white : 1;
    planes[3][i] = a;
    for (let c = 0; c < 3; c++) {
      const v = values[i * channels + (channels < 3 ? 0 : c)];
      const light = levels ? levels[v] : v;
      planes[c][i] = Number.isFinite(light) ? (hasAlpha && isStraight ? light * a : light) : 0;
    }
  }
  const [r, g, b] = planesThrough(planes, between(spaceOfPlate(plate, p), working));
  return { width, height, planes: [r, g, b, planes[3]] };
}
