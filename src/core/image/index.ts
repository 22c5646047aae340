export { decodeSrgb, encodeSrgb, hexToRgb, kelvinToRgb, luminance, rgbToHex } from './color';
export { decodeJpeg } from './decode-jpeg';
export { decodePng } from './decode-png';
export {
  curveThrough,
  type Display,
  displayOf,
  displayReader,
  displaySlope,
  displayValue,
  exposureScale,
  type Look,
  SHOULDER_START,
  scaleOf,
  shoulder,
  toDisplayBytes,
  whiteGains,
} from './display';
export { decodeHdr } from './hdr';
export { profileOf, type ScreenCurve, spaceOfProfile } from './icc';
export { applied, inverse, type Matrix, times } from './matrix';
export { encodePng } from './png';
export {
  between,
  type Chromaticities,
  chromaticitiesOf,
  isIdentity,
  luminanceWeights,
  planesThrough,
  SPACE_NAMES,
  type Space,
  spaceOf,
  toXyz,
  WORKING_SPACES,
  type WorkingSpace,
} from './primaries';
export { asPictureError, checkSize, type DecodedPicture, PictureError, type Samples, whiteOf } from './samples';
export { encodeTiff } from './tiff';
