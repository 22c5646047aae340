import { ZodError } from 'zod';

/** A glTF file that cannot be read: what is wrong and where. */
export class GltfError extends Error {}

/** What is wrong with a file, in words: where a value lies outside of its range, which one. */
export function asGltfError(error: unknown, where = ''): GltfError {
  if (error instanceof GltfError) return error;
  const before = where && `${where}: `;
  if (error instanceof ZodError) {
    const [issue] = error.issues;
    return new GltfError(`${before}${issue.path.join('.')}: ${issue.message}`);
  }
  // What an engine says of its own workings helps nobody.
  if (error instanceof TypeError || error instanceof RangeError)
    return new GltfError(`${before}it is damaged: its parts do not fit together`);
  return new GltfError(`${before}${(error as Error).message}`);
}
