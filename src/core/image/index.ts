export { decodeSrgb, encodeSrgb, hexToRgb, kelvinToRgb, luminance, rgbToHex } from './color';
export {
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
} from './display';
export { decodeHdr, PictureError } from './hdr';
export { encodePng } from './png';
