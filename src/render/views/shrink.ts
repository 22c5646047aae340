import type { SmallPicture } from './place';

/** Screen pixels at so many across, each the mean of those it stands for; a picture that is no wider stays as it is. */
export function shrunk({ width, height, pixels }: SmallPicture, across: number): SmallPicture {
  if (width <= across) return { width, height, pixels };
  const down = Math.max(1, Math.round((height * across) / width));
  const out = new Uint8ClampedArray(across * down * 4);
  for (let y = 0; y < down; y++) {
    const [y0, y1] = [Math.floor((y * height) / down), Math.floor(((y + 1) * height) / down)];
    for (let x = 0; x < across; x++) {
      const [x0, x1] = [Math.floor((x * width) / across), Math.floor(((x + 1) * width) / across)];
      const count = (x1 - x0) * (y1 - y0);
      for (let c = 0; c < 4; c++) {
        let sum = 0;
        for (let v = y0; v < y1; v++) for (let u = x0; u < x1; u++) sum += pixels[(v * width + u) * 4 + c];
        out[(y * across + x) * 4 + c] = sum / count;
      }
    }
  }
  return { width: across, height: down, pixels: out };
}
