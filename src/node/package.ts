import { extract, pack } from 'tar-stream';

/** A file of a package. */
export interface PackageFile {
  name: string;
  bytes: number;
  pieces: () => AsyncIterable<Uint8Array> | Iterable<Uint8Array>;
}

/** Files as a .tar (POSIX.1-2001) whose pieces are made as they are read. Equal files are equal bytes: no times, no owners. */
export async function* tarOf(files: readonly PackageFile[]): AsyncGenerator<Uint8Array> {
  const tar = pack();
  const fed = (async () => {
    for (const { name, bytes, pieces } of files) {
      const entry = tar.entry({ name, size: bytes, mtime: new Date(0), mode: 0o644 });
      // An entry that fails is told by the stream that is read.
      entry.on('error', () => {});
      for await (const piece of pieces())
        if (!entry.write(Buffer.from(piece.buffer, piece.byteOffset, piece.byteLength)))
          await new Promise<void>((resolve) => entry.once('drain', () => resolve()));
      const ended = new Promise<void>((resolve) => entry.once('finish', () => resolve()));
      entry.end(null);
      await ended;
    }
    tar.finalize();
  })();
  fed.catch((error) => tar.destroy(error));
  for await (const piece of tar) yield piece as Uint8Array;
  await fed;
}

/** Reads a .tar as it comes, file by file; `take` must read a file's pieces to their end. Throws where it is cut short or none. */
export async function readTar(
  stream: AsyncIterable<Uint8Array>,
  take: (name: string, bytes: number, pieces: AsyncIterable<Uint8Array>) => Promise<void>,
): Promise<void> {
  const tar = extract();
  const fed = (async () => {
    for await (const piece of stream)
      if (!tar.write(Buffer.from(piece.buffer, piece.byteOffset, piece.byteLength)))
        await new Promise<void>((resolve) => {
          const end = () => {
            tar.off('drain', end);
            tar.off('close', end);
            resolve();
          };
          tar.on('drain', end);
          tar.on('close', end);
        });
    tar.end(null);
  })();
  fed.catch((error) => tar.destroy(error));
  for await (const entry of tar) {
    const { name, size = 0, type } = entry.header;
    if (type === 'file') await take(name, size, entry as unknown as AsyncIterable<Uint8Array>);
    else for await (const _ of entry);
  }
  await fed;
}
