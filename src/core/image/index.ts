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
export { encodePng } from './png';
export { asPictureError, checkSize, type DecodedPicture, PictureError, type Samples, whiteOf } from './samples';
