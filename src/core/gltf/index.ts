export { GltfError } from './error';
export { type Finding, findingsOf, fixFinding } from './findings';
export { packGltf } from './pack';
export { checkGlb, type GlbNotes, type GlbScene, readGlb } from './read';
export { writeGlb } from './write';
