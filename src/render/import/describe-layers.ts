import { fromBytes, layeredIn, readHeaders } from '@/core/exr';
import type { Content } from '@/core/scene';

/** What the scene keeps of an OpenEXR file whose layers stacks may take. Throws in words that name the file and the fault. */
export async function describeLayers(
  file: string,
  bytes: Uint8Array,
): Promise<Pick<Content, 'width' | 'height' | 'channels' | 'format' | 'layers' | 'things' | 'primaries' | 'scale'>> {
  try {
    const read = await readHeaders(fromBytes(bytes));
    const { width, height, layers, things } = layeredIn(read);
    const { chromaticities, 'lantern:exposure': exposure } = read.parts[0].attributes;
    return {
      width,
      height,
      channels: 4,
      format: 'float',
      layers: layers.map((l) => ({ name: l.name, channels: l.channels.map((c) => c.name) })),
      ...(things.length > 0 ? { things } : {}),
      ...(chromaticities?.type === 'chromaticities' ? { primaries: chromaticities.value } : {}),
      ...(exposure?.type === 'double' && exposure.value > 0 ? { scale: exposure.value } : {}),
    };
  } catch (error) {
    throw new Error(`${file}: ${(error as Error).message ?? error}`);
  }
}
