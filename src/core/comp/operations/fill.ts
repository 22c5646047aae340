import type { Arena } from '../arena';

/**
 * Fills what is not known of planes from what is about it [Gortler et al. 1996, pull-push]: halved again and again by means of what is known, then brought back
 * into the holes alone. `known`: how much of each pixel is known, 0 to 1; planes hold values times that. Known pixels stay as they are; where nothing is known at
 * all, 0. Planes are filled in place.
 */
export function fill(arena: Arena, planes: readonly number[], known: number, width: number, height: number): void {
  const { loops } = arena;
  if (width <= 1 && height <= 1) {
    const [share] = arena.view(known, 1);
    for (const plane of planes) {
      const value = arena.view(plane, 1);
      value[0] = share > 0 ? value[0] / share : 0;
    }
    return;
  }
  arena.within(() => {
    const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
    const halved = (plane: number) => {
      const out = arena.floats(w * h);
      loops.pull(plane, width, height, out);
      return out;
    };
    const less = halved(known);
    const small = planes.map(halved);
    // What is known of four pixels together fills one: no surer than wholly.
    for (const plane of small) loops.evened(plane, less, w * h);
    loops.capped(less, w * h);
    fill(arena, small, less, w, h);
    planes.forEach((plane, c) => {
      loops.push(plane, known, small[c], width, height);
    });
  });
}
