/** The frame a film belongs to and where its pixels lie in it. */
export interface Placement {
  width: number;
  height: number;
  x: number;
  y: number;
  w: number;
  h: number;
}

/** Part of a frame, in fractions of it. */
export interface Area {
  x: number;
  y: number;
  w: number;
  h: number;
}

/** A small picture, ready for the screen. */
export interface SmallPicture {
  width: number;
  height: number;
  pixels: Uint8ClampedArray<ArrayBuffer>;
}
