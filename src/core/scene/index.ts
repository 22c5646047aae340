export {
  type Camera,
  coverageNames,
  type Environment,
  type Light,
  lightGroups,
  type Material,
  materialSchema,
  type Scene,
  type SceneDocument,
  sceneSchema,
} from './document';
export { box, extrude, lathe, merge, plane, sphere, sweep, transformed } from './generate';
export { GltfError, readGlb } from './gltf';
export { joinGeometry, type Mesh, meshAt } from './mesh';
