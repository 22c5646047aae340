/** A glTF file that cannot be read: what is wrong and where. */
export class GltfError extends Error {}
