/** Inflates zlib data in a page or its workers, by the browser's own; refuses to give more than `most` bytes. */
export async function inflateInPage(data: Uint8Array, most: number): Promise<Uint8Array> {
  const reader = new Blob([data.slice() as Uint8Array<ArrayBuffer>])
    .stream()
    .pipeThrough(new DecompressionStream('deflate'))
    .getReader();
  const parts: Uint8Array[] = [];
  let size = 0;
  for (let r = await reader.read(); !r.done; r = await reader.read()) {
    size += r.value.length;
    if (size > most) {
      await reader.cancel();
      throw new Error(`inflates to more than ${most} bytes`);
    }
    parts.push(r.value);
  }
  const out = new Uint8Array(size);
  let at = 0;
  for (const p of parts) {
    out.set(p, at);
    at += p.length;
  }
  return out;
}

/** Packs data by zlib, in the same way. */
export async function deflateInPage(data: Uint8Array): Promise<Uint8Array> {
  const stream = new Blob([data.slice() as Uint8Array<ArrayBuffer>]).stream();
  return new Uint8Array(await new Response(stream.pipeThrough(new CompressionStream('deflate'))).arrayBuffer());
}
