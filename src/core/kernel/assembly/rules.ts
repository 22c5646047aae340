// Rules of objects: which rays see them, what others meet in place of their material, how far paths go on from them.
import {
  H_MATERIALS, H_OBJECTS, H_RULED, H_TRIANGLE_INFO, H_TWIN_KINDS, I_OBJECT, MATERIAL_BYTES, OBJECT_BYTES, OBJECT_CATCHER,
  OBJECT_FOCUSES_NO_LIGHT, OBJECT_HIDES_BACKS, OBJECT_SHOWS_NO_CAUSTICS, O_DEPTH_ALL, O_DEPTH_DIFFUSE, O_FLAGS, O_SAMPLES,
  O_SECONDARY, RAY_CAMERA, RAY_TWIN, SCENE_BASE, TRIANGLE_MATERIAL_SHIFT,
} from './layout';

// @ts-ignore: decorator
@inline
export function hasRules(): bool {
  return load<i32>(SCENE_BASE, H_RULED) != 0;
}

// @ts-ignore: decorator
@inline
function objectAt(object: i32): usize {
  return load<usize>(SCENE_BASE, H_OBJECTS) + usize(object) * OBJECT_BYTES;
}

export function flagsOf(object: i32): i32 {
  return load<i32>(objectAt(object), O_FLAGS);
}

/** Material record that rays other than the camera's meet there, 0 = the object's own. */
export function secondaryOf(object: i32): usize {
  return load<usize>(objectAt(object), O_SECONDARY);
}

/** Whether flags hide an object from rays of `kind`, met from the front or the back. */
// @ts-ignore: decorator
@inline
export function hides(flags: i32, kind: i32, front: bool): bool {
  return ((flags >> kind) & 1) != 0 || (kind == RAY_CAMERA && !front && (flags & OBJECT_HIDES_BACKS) != 0);
}

/** Whether what continuation rays of a lobe see differs from what stands between them and lights. */
// @ts-ignore: decorator
@inline
export function needsTwin(lobe: i32): bool {
  return ((load<i32>(SCENE_BASE, H_TWIN_KINDS) >> (lobe + 1)) & 1) != 0;
}

/** Whether a path with these continuation rays, in all and of a lobe, may go on from an object. */
export function allows(object: i32, lobe: i32, all: i32, ofKind: i32): bool {
  const o = objectAt(object);
  return all <= load<i32>(o, O_DEPTH_ALL) && ofKind <= load<i32>(o + (usize(lobe) << 2), O_DEPTH_DIFFUSE);
}

/** `count` samples multiplied as the object asks where the camera sees it; at least one. */
export function samplesFor(object: i32, count: i32): i32 {
  const k = load<f32>(objectAt(object), O_SAMPLES);
  return k == 1 ? count : max(1, i32(nearest<f32>(f32(count) * k)));
}

// @ts-ignore: decorator
@inline
export function focuses(flags: i32): bool {
  return (flags & OBJECT_FOCUSES_NO_LIGHT) == 0;
}

// @ts-ignore: decorator
@inline
export function showsCaustics(flags: i32): bool {
  return (flags & OBJECT_SHOWS_NO_CAUSTICS) == 0;
}

// @ts-ignore: decorator
@inline
export function infoOf(triangle: i32): u32 {
  return load<u32>(load<usize>(SCENE_BASE, H_TRIANGLE_INFO) + (usize(triangle) << 2));
}

// @ts-ignore: decorator
@inline
export function objectOf(info: u32, instance: usize): i32 {
  return instance ? load<i32>(instance, I_OBJECT) : info & 0xffff;
}

/** Record of the material that rays other than the camera's meet on a triangle. */
export function secondaryRecord(info: u32, instance: usize): usize {
  const second = hasRules() ? secondaryOf(objectOf(info, instance)) : 0;
  return second ? second : load<usize>(SCENE_BASE, H_MATERIALS) + usize(info >> TRIANGLE_MATERIAL_SHIFT) * MATERIAL_BYTES;
}

/** Whether shadow rays do not see the object that a triangle belongs to. */
export function castsNoShadow(info: u32, instance: usize): bool {
  return hasRules() && ((flagsOf(objectOf(info, instance)) >> RAY_TWIN) & 1) != 0;
}

/** Whether a triangle belongs to a shadow catcher. */
export function isCatcher(triangle: i32, instance: usize): bool {
  return (flagsOf(objectOf(infoOf(triangle), instance)) & OBJECT_CATCHER) != 0;
}
