/** Pieces sent as they are made; a reader that goes ends the making. */
export function streamOf(pieces: AsyncIterable<Uint8Array>): ReadableStream<Uint8Array> {
  const left = pieces[Symbol.asyncIterator]();
  return new ReadableStream({
    pull: async (controller) => {
      const { done, value } = await left.next();
      if (done) controller.close();
      else controller.enqueue(new Uint8Array(value));
    },
    cancel: async () => {
      await left.return?.();
    },
  });
}

/** An OpenEXR file to be saved under a name. */
export const exrResponse = ({ bytes, size }: { bytes: AsyncIterable<Uint8Array>; size: number }, name: string) =>
  new Response(streamOf(bytes), {
    headers: {
      'content-type': 'image/x-exr',
      'content-length': String(size),
      'content-disposition': `attachment; filename="${name}"`,
      'cache-control': 'no-store',
    },
  });
