export { decodeSrgb, encodeSrgb, hexToRgb, kelvinToRgb, luminance, rgbToHex } from './color';
export { displaySlope, displayValue, exposureScale, SHOULDER_START, shoulder, toDisplayBytes } from './display';
export { decodeHdr, PictureError } from './hdr';
export { encodePng } from './png';
