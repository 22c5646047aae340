export { packHere, unpackHere } from './codecs';
export type { Block } from './codecs/block';
export type { ChunkThreads, Deflate, Inflate, Packing } from './codecs/codec';
export { halfIsSafe, halfPlane } from './codecs/numbers';
export { maskBits, maskHex, murmur3 } from './cryptomatte';
export { cutPart, type FileLayer, inOnePart, layersInFile, opennessPart, prefixed, restPart } from './cut';
export {
  type Depth,
  type FilmFileOptions,
  filmParts,
  lateFilmParts,
  layersOf,
  type Members,
  membersIn,
  partOf,
  type ReadPart,
  withLayers,
} from './film-file';
export { fromHalf, toHalf } from './half';
export { layeredIn, readLayered } from './layered';
export {
  coverageOf,
  type FileMask,
  type Masking,
  maskNeeds,
  maskPart,
  masksInFile,
  maskValues,
  type Picked,
  ranksOf,
  readManifest,
} from './mask';
export { type ExrFile, type ReadLimits, readHeaders } from './read';
export { readPart } from './read-part';
export {
  type Attribute,
  type Box,
  type ByteSource,
  type Channel,
  COMPRESSIONS,
  type Compression,
  ExrError,
  fromBytes,
  height as boxHeight,
  isLossy,
  type Part,
  type PartHeader,
  width as boxWidth,
} from './types';
export { type ExrStream, type LatePart, type PartExtent, streamExr, writeExr } from './write';
