declare module 'gltf-validator' {
  import type { Validate } from './read-scene';
  export const validateBytes: Validate;
}
