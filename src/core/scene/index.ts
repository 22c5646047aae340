export { cameraAt, cameraSteps, isAnimated, sceneAt } from './animate';
export { Assembler, assembleRead, neededHashes } from './assemble';
export { type Bounds, sceneBounds } from './bounds';
export { mergeScenes, sceneChanges } from './changes';
export { type Clay, clayScene } from './clay';
export { type Content, type Plate, stillAt } from './content';
export { displacedScene, isDisplaced } from './displace';
export { type Camera, cameraSchema, coverageNames, lightGroups, type SceneDocument, sceneSchema } from './document';
export { copied, freeMesh, freeName, type ItemKind, type ItemRef, namesOf, renamed, without } from './edit';
export { FieldError, type FieldOwner, fieldAt, type Shared, sharedField, withField } from './fields';
export { type Finding, findingsOf, fixFinding } from './findings';
export { type Form, formMesh, formSchema } from './form';
export { box, extrude, lathe, merge, plane, sphere, sweep, transformed } from './generate';
export { type GlbNotes, type GlbScene, readGlb } from './gltf';
export { GltfError } from './gltf-error';
export { packGltf } from './gltf-pack';
export { writeGlb } from './gltf-write';
export {
  type Environment,
  environmentSchema,
  type Light,
  type LightControls,
  type Portal,
  sunDirection,
} from './light';
export { litDocument } from './lit';
export { type Look, PLAIN_LOOK } from './look';
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
} from './make';
export {
  IOR_PRESETS,
  type Material,
  materialSchema,
  TEXTURE_INPUTS,
  type Texture,
  type TextureInput,
} from './material';
export { joinGeometry, type Mesh, meshAt, type Picture, pictureAt, smoothNormals } from './mesh';
export { applyOverlay, OverlayError, parseOverlay } from './overlay';
export {
  aimedAt,
  IDENTITY_TRANSFORM,
  mirrored,
  moved,
  multiply,
  type Placement,
  placementOf,
  transformOf,
} from './placement';
export type { Pose } from './pose';
export { type ResolvedRules, type RuleRay, resolveRules, secondaryMaterials } from './rules';
export type { Scene } from './scene';
