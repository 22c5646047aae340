import { open } from 'node:fs/promises';
import { type ByteSource, ExrError } from '@/core/exr';

/** Opens a file for reading at random; `close` when it is done with. Throws as the file system does. */
export async function fileSource(path: string): Promise<ByteSource & { close: () => Promise<void> }> {
  const handle = await open(path, 'r');
  const { size } = await handle.stat();
  return {
    size,
    read: async (offset, length) => {
      const bytes = new Uint8Array(length);
      const { bytesRead } = await handle.read(bytes, 0, length, offset);
      if (bytesRead < length) throw new ExrError('file is cut short', offset + bytesRead);
      return bytes;
    },
    close: () => handle.close(),
  };
}
