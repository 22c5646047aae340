export {
  type Camera,
  coverageNames,
  lightGroups,
  type Scene,
  type SceneDocument,
  sceneSchema,
} from './document';
export { box, extrude, lathe, merge, plane, sphere, sweep, transformed } from './generate';
export { GltfError, readGlb } from './gltf';
export {
  type Environment,
  environmentSchema,
  LIGHT_UNITS,
  type Light,
  type LightControls,
  type Portal,
  SKY_MODELS,
  sunDirection,
} from './light';
export { IOR_PRESETS, type Material, materialSchema, type Texture, type TextureInput } from './material';
export { joinGeometry, type Mesh, meshAt, type Picture, pictureAt } from './mesh';
