import { pictureErrors, type Rgb } from '@/core/stats';
import { one, parseArguments, print, UsageError } from './args';
import { readLayers, withExr } from './exr-files';

/** The beauty of a file, its size, and the exposure it was rendered for. */
function beautyOf(path: string): Promise<{ rgb: Rgb; width: number; height: number; exposure: number }> {
  return withExr(path, async (source, file) => {
    const film = await readLayers(source, file);
    const beauty = film.layers.get('beauty');
    if (!beauty || beauty.planes.length < 3) throw new UsageError(`${path}: holds no colour (channels R, G and B)`);
    const written = file.parts[0].attributes['lantern:exposure'];
    const [r, g, b] = beauty.planes;
    return {
      rgb: [r, g, b],
      width: film.width,
      height: film.height,
      exposure: written?.type === 'double' ? written.value : 1,
    };
  });
}

/** `lantern compare`: how far a picture is from a reference, at the reference's exposure. */
export async function compare(argv: string[]): Promise<number> {
  const args = parseArguments(argv, { json: 'value' });
  if (args.positional.length !== 2) throw new UsageError('compare needs two .exr files: the reference, then the other');
  const [reference, other] = [await beautyOf(args.positional[0]), await beautyOf(args.positional[1])];
  const { width, height } = reference;
  if (other.width !== width || other.height !== height)
    throw new UsageError(
      `${args.positional[1]}: ${other.width}×${other.height} pixels, but the reference has ${width}×${height}`,
    );
  const { errors } = pictureErrors(reference.rgb, other.rgb, width, height, reference.exposure);
  const json = { ...errors, psnr: Number.isFinite(errors.psnr) ? errors.psnr : null, width, height };
  print(
    one(args, 'json') === '-',
    json,
    `RMSE ${errors.rmse.toPrecision(4)}   relMSE ${errors.relMse.toPrecision(4)}   PSNR ${Number.isFinite(errors.psnr) ? `${errors.psnr.toFixed(2)} dB` : 'infinite'}   SSIM ${errors.ssim.toFixed(5)}   FLIP ${errors.flip.toFixed(5)}\n`,
  );
  return 0;
}
