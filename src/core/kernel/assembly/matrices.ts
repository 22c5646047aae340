// Matrices of four columns in memory, row by row: `m` is where a row begins, or the matrix where its columns count.

/** A row times a vector. */
// @ts-ignore: decorator
@inline
export function rowTimes(m: usize, x: f32, y: f32, z: f32): f32 {
  return load<f32>(m) * x + load<f32>(m, 4) * y + load<f32>(m, 8) * z;
}

/** A row times a point, which the fourth column moves. */
// @ts-ignore: decorator
@inline
export function rowTimesPoint(m: usize, x: f32, y: f32, z: f32): f32 {
  return load<f32>(m) * x + load<f32>(m, 4) * y + load<f32>(m, 8) * z + load<f32>(m, 12);
}

/** The column at `m` times a vector: by the inverse's columns normals go to where its rows come from. */
// @ts-ignore: decorator
@inline
export function columnTimes(m: usize, x: f32, y: f32, z: f32): f32 {
  return load<f32>(m) * x + load<f32>(m, 16) * y + load<f32>(m, 32) * z;
}
