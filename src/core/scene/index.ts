export {
  type Camera,
  coverageNames,
  type Environment,
  type Light,
  lightGroups,
  type Scene,
  type SceneDocument,
  sceneSchema,
} from './document';
export { IOR_PRESETS, type Material, materialSchema, type Texture, type TextureInput } from './material';
export { box, extrude, lathe, merge, plane, sphere, sweep, transformed } from './generate';
export { GltfError, readGlb } from './gltf';
export { joinGeometry, type Mesh, meshAt, type Picture, pictureAt } from './mesh';
