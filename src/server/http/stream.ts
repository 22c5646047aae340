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

/** A layer as planar 32-bit floats, its channels named in `x-channels`. */
export const layerResponse = (layer: {
  values: Float32Array<ArrayBuffer>;
  width: number;
  height: number;
  channels: string[];
}) =>
  new Response(layer.values.buffer, {
    headers: {
      'content-type': 'application/octet-stream',
      'x-width': String(layer.width),
      'x-height': String(layer.height),
      'x-channels': layer.channels.join(','),
      'cache-control': 'private, max-age=31536000, immutable',
    },
  });

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
