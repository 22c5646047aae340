export { type Content, type Plate, stillAt } from './document/content';
export {
  type Camera,
  cameraSchema,
  coverageNames,
  type Fog,
  fogSchema,
  MOST_GROUPS,
  type SceneDocument,
  sceneSchema,
} from './document/document';
export { type Form, formSchema } from './document/form';
export type { PictureEntry } from './document/geometry';
export {
  type Environment,
  environmentSchema,
  type Light,
  type LightControls,
  lightSchema,
  type Portal,
  picturedEnvironment,
  sunDirection,
} from './document/light';
export {
  type Glow,
  type GroupNode,
  glowsOf,
  groupNumber,
  groupTree,
  lightGroups,
  namedGroups,
  neededGroups,
  partOf,
  partsOf,
  UNASSIGNED,
  withOuter,
} from './document/light-groups';
export { type Look, PLAIN_LOOK } from './document/look';
export {
  IOR_PRESETS,
  type Material,
  materialSchema,
  TEXTURE_INPUTS,
  type Texture,
  type TextureInput,
} from './document/material';
export { emptyPicks, likeName, type Pickable, pickableOf, pickedBy, type ThingPick } from './document/picks';
export { type ResolvedRules, type RuleRay, resolveRules, secondaryMaterials } from './document/rules';
export { LIGHT_PARTS, type LightPart, MOST_FOGS } from './document/terms';
export { IDENTITY_TRANSFORM, multiply, type Placement, placementOf, transformOf } from './document/transform';
export { closed, opened, singlesIn, withoutStaleParts, withParts } from './edit/apart';
export { mergeScenes, sceneChanges } from './edit/changes';
export { FieldError, type FieldOwner, fieldAt, type Shared, sharedField, withField } from './edit/fields';
export { copied, freeMesh, freeName, type ItemKind, type ItemRef, namesOf, renamed, without } from './edit/items';
export {
  addSurface,
  emptyShot,
  LIGHT_KINDS,
  type LightKind,
  makeGradient,
  makeLight,
  makeSky,
  makeSolid,
  SOLID_KINDS,
  type SolidKind,
  STARTER_SURFACES,
} from './edit/make';
export { applyOverlay, OverlayError, parseOverlay } from './edit/overlay';
export { aimedAt, mirrored, moved } from './edit/placement';
export {
  type Grouping,
  groupForEach,
  groupForEachSet,
  groupNameOf,
  type LightSource,
  lightSources,
  quietestOver,
  withGroups,
} from './edit/sources';
export { cameraAt, cameraSteps, carrierOf, isAnimated, sceneAt, slerp } from './shape/animate';
export { Assembler, assembleRead, neededHashes } from './shape/assemble';
export { type Bounds, objectBounds, sceneBounds } from './shape/bounds';
export { type Clay, clayScene } from './shape/clay';
export { displacedScene, isDisplaced } from './shape/displace';
export { formMesh } from './shape/form';
export { box, extrude, lathe, merge, plane, sphere, sweep, transformed } from './shape/generate';
export { geometryOf, withGeometry } from './shape/geometry';
export { litDocument } from './shape/lit';
export { formatOf, joinGeometry, type Mesh, meshAt, type Picture, pictureAt, smoothNormals } from './shape/mesh';
export type { LightPose, Pose } from './shape/pose';
export type { Scene } from './shape/scene';
export { isWholeScope, type Scope, scopedScene } from './shape/scope';
