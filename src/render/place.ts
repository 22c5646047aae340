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
