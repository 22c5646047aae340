/** zlib deflate, handed in by the host. */
export type Deflate = (bytes: Uint8Array) => Promise<Uint8Array>;
/** zlib inflate that refuses to give more than `most` bytes, handed in by the host. */
export type Inflate = (bytes: Uint8Array, most: number) => Promise<Uint8Array>;
