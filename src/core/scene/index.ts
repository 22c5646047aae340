export { cameraAt, cameraSteps, isAnimated, sceneAt } from './animate';
export { type Clay, clayScene } from './clay';
export { displacedScene, isDisplaced } from './displace';
export { type Camera, coverageNames, lightGroups, type SceneDocument, sceneSchema } from './document';
export { box, extrude, lathe, merge, plane, sphere, sweep, transformed } from './generate';
export { GltfError, readGlb } from './gltf';
export {
  type Environment,
  environmentSchema,
  type Light,
  type LightControls,
  type Portal,
  sunDirection,
} from './light';
export { type Material, materialSchema, type Texture, type TextureInput } from './material';
export { joinGeometry, type Mesh, meshAt, type Picture, pictureAt, smoothNormals } from './mesh';
export { applyOverlay, OverlayError, parseOverlay } from './overlay';
export type { Pose } from './pose';
export { type ResolvedRules, type RuleRay, resolveRules, secondaryMaterials } from './rules';
export type { Scene } from './scene';
