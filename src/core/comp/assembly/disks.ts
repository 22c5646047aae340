// Planes spread by disks.

/**
 * Sums along each row of a plane up to every edge between pixels: width + 1 floats of 64 bits a row.
 */
export function addUp(from: usize, to: usize, width: u32, height: u32): void {
  for (let y: u32 = 0; y < height; y++) {
    let sum: f64 = 0;
    store<f64>(to, 0);
    to += 8;
    for (let x: u32 = 0; x < width; x++, from += 4, to += 8) {
      sum += <f64>load<f32>(from);
      store<f64>(to, sum);
    }
  }
}

/**
 * Adds one row of a disk, `k` rows away, to a plane: the difference of sums at both ends of it. Ends are told by column: the edge to the left of each,
 * and the part of the pixel beyond.
 */
export function addRow(
  sums: usize,
  out: usize,
  width: u32,
  height: u32,
  k: i32,
  from: usize,
  fromPart: usize,
  to: usize,
  toPart: usize,
): void {
  const stride = (<usize>width + 1) << 3;
  const first = max(0, -k);
  const last = min(<i32>height, <i32>height - k);
  for (let y = first; y < last; y++) {
    const row = sums + <usize>(y + k) * stride;
    let o = out + ((<usize>y * width) << 2);
    for (let x: usize = 0; x < <usize>width; x++, o += 4) {
      const i = row + (<usize>load<u32>(from + (x << 2)) << 3);
      const j = row + (<usize>load<u32>(to + (x << 2)) << 3);
      const low = load<f64>(i);
      const high = load<f64>(j);
      const p = load<f64>(fromPart + (x << 3));
      const q = load<f64>(toPart + (x << 3));
      const sum = high + q * (load<f64>(j, 8) - high) - low - p * (load<f64>(i, 8) - low);
      store<f32>(o, load<f32>(o) + <f32>sum);
    }
  }
}

/** Every float of a plane over that of another. */
export function over(at: usize, by: usize, n: u32): void {
  const end = at + (<usize>n << 2);
  for (; at < end; at += 4, by += 4) store<f32>(at, load<f32>(at) / load<f32>(by));
}
