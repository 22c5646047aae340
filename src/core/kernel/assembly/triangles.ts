// Triangles as they are packed: numbers of their three vertices, and by those places and texture coordinates.
import { H_INDICES, H_NORMALS, H_POSITIONS, H_UVS, SCENE_BASE } from './layout';

/** Number of the vertex at corner k of a triangle. */
// @ts-ignore: decorator
@inline
export function vertexOf(triangle: i32, k: usize): usize {
  return usize(load<u32>(load<usize>(SCENE_BASE, H_INDICES) + usize(triangle) * 12 + (k << 2)));
}

/** Where corner k, the vertex numbered `vertex`, is in the space of its instance: among the corners `bent` of one that changes its shape, or where it always is (0). */
// @ts-ignore: decorator
@inline
export function cornerOf(vertex: usize, k: usize, bent: usize): usize {
  return bent ? bent + k * 12 : load<usize>(SCENE_BASE, H_POSITIONS) + vertex * 12;
}

/** Where the normal of corner k is, likewise. */
// @ts-ignore: decorator
@inline
export function normalOf(vertex: usize, k: usize, bent: usize): usize {
  return bent ? bent + 36 + k * 12 : load<usize>(SCENE_BASE, H_NORMALS) + vertex * 12;
}

/** Whether the scene has texture coordinates. */
// @ts-ignore: decorator
@inline
export function hasUvs(): bool {
  return load<usize>(SCENE_BASE, H_UVS) != 0;
}

/** Where the texture coordinates of a vertex are. */
// @ts-ignore: decorator
@inline
export function uvOf(vertex: usize): usize {
  return load<usize>(SCENE_BASE, H_UVS) + vertex * 8;
}

/** A value that runs over a triangle between those at its corners, `offset` bytes on, at barycentric (u, v). */
// @ts-ignore: decorator
@inline
export function across(a: usize, b: usize, c: usize, u: f32, v: f32, offset: usize): f32 {
  return (f32(1) - u - v) * load<f32>(a + offset) + u * load<f32>(b + offset) + v * load<f32>(c + offset);
}
