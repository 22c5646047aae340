import type { Finding } from '@/core/gltf';
import type { Content, SceneDocument } from '@/core/scene';

/** What the page asks of the import worker, and what comes back. */
export type ToImport =
  | { type: 'scene'; files: { path: string; file: File }[] }
  /** Stores the scene that was read last, with the fixes of some findings made. */
  | { type: 'keep'; fixes: string[] }
  | { type: 'picture'; file: File; use: Exclude<Content['use'], 'layers'> }
  /** Stores an OpenEXR file as it is, for stacks to take its layers. */
  | { type: 'layers'; file: File };

export type FromImport =
  | { type: 'step'; words: string; fraction: number }
  | {
      type: 'read';
      name: string;
      findings: Finding[];
      warnings: string[];
      counts: {
        objects: number;
        triangles: number;
        lights: number;
        cameras: number;
        materials: number;
        metres: number;
      };
    }
  | { type: 'kept'; document: SceneDocument }
  | { type: 'content'; content: Content }
  | { type: 'failed'; message: string };
