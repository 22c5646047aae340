import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { z } from 'zod';

/** Open codecs that movies are made with, and how Debian's ffmpeg is told to. */
const CODECS = {
  av1: ['-c:v', 'libsvtav1', '-preset', '8', '-crf', '24', '-svtav1-params', 'tune=0'],
  vp9: ['-c:v', 'libvpx-vp9', '-crf', '18', '-b:v', '0', '-row-mt', '1', '-deadline', 'good', '-cpu-used', '3'],
} as const;
export type MovieCodec = keyof typeof CODECS;
/** The quick maker of AV1 takes no picture with a smaller side; this one does. */
const LEAST_SIDE = 64;
const SMALL_AV1 = ['-c:v', 'libaom-av1', '-cpu-used', '6', '-crf', '24', '-b:v', '0'] as const;

export interface MovieForm {
  width: number;
  height: number;
  /** Frames a second. */
  rate: number;
  codec: MovieCodec;
}

/** What was read back of a movie, its frames counted one by one. */
export interface MovieFacts {
  codec: string;
  width: number;
  height: number;
  frames: number;
  rate: number;
  seconds: number;
}

/** The last line of what a program wrote of a fault. */
const lastLine = (text: string) => text.trim().split('\n').at(-1) ?? '';

async function ended(child: ChildProcess, name: string, errors: () => string): Promise<void> {
  const [code] = await once(child, 'close');
  if (code !== 0) throw new Error(`${name} ended with ${code}: ${lastLine(errors())}`);
}

const missing = (error: NodeJS.ErrnoException) =>
  error.code === 'ENOENT' ? new Error('ffmpeg is not installed on this machine: run npm run setup') : error;

/**
 * Writes frames as a movie in WebM at `path`, BT.709 in the range of video, 4:2:0. Frames are R, G, B of 8 bits as displayed, top row
 * first; where a side is odd, its last row or column is doubled, since chroma has half of them. Throws in words.
 */
export async function writeMovie(
  path: string,
  { width, height, rate, codec }: MovieForm,
  frames: AsyncIterable<Uint8Array>,
  signal?: AbortSignal,
): Promise<void> {
  const even = `pad=ceil(iw/2)*2:ceil(ih/2)*2,fillborders=right=${width % 2}:bottom=${height % 2}:mode=smear`;
  const colours = 'scale=out_color_matrix=bt709:in_range=full:out_range=tv:flags=accurate_rnd+full_chroma_int+bicubic';
  const child = spawn('ffmpeg', [
    ...['-hide_banner', '-loglevel', 'error', '-nostdin', '-y'],
    ...['-f', 'rawvideo', '-pix_fmt', 'rgb24', '-s', `${width}x${height}`, '-r', String(rate), '-i', 'pipe:0'],
    ...['-vf', `${width % 2 || height % 2 ? `${even},` : ''}${colours},format=yuv420p`],
    ...['-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'iec61966-2-1', '-color_range', 'tv'],
    ...(codec === 'av1' && Math.min(width, height) < LEAST_SIDE ? SMALL_AV1 : CODECS[codec]),
    ...['-f', 'webm', path],
  ]);
  let errors = '';
  child.stderr.on('data', (d) => {
    errors = (errors + d).slice(-4000);
  });
  const failed = once(child, 'error').then(([error]) => {
    throw missing(error);
  });
  const done = ended(child, 'ffmpeg', () => errors);
  // Whichever comes first is told; the other is no fault that nobody heard of.
  failed.catch(() => {});
  done.catch(() => {});
  // A pipe that breaks is told by how the program ends.
  child.stdin.on('error', () => {});
  const stop = () => child.kill('SIGKILL');
  signal?.addEventListener('abort', stop);
  try {
    for await (const frame of frames) {
      if (frame.length !== width * height * 3) throw new Error(`a frame is not of ${width}×${height} pixels`);
      if (signal?.aborted) throw new Error('stopped');
      if (!child.stdin.write(frame))
        await Promise.race([new Promise((resolve) => child.stdin.once('drain', resolve)), failed, done]);
    }
    child.stdin.end();
    await Promise.race([done, failed]);
  } catch (error) {
    stop();
    throw error;
  } finally {
    signal?.removeEventListener('abort', stop);
  }
}

const probed = z.object({
  streams: z
    .array(
      z.object({
        codec_name: z.string(),
        width: z.number(),
        height: z.number(),
        nb_read_frames: z.coerce.number().int(),
        r_frame_rate: z.string(),
      }),
    )
    .min(1),
  format: z.object({ duration: z.coerce.number() }),
});

/** Reads a movie back: all its frames are decoded and counted. Throws in words. */
export async function readMovie(path: string): Promise<MovieFacts> {
  const wanted = 'stream=codec_name,width,height,nb_read_frames,r_frame_rate:format=duration';
  const child = spawn('ffprobe', [
    ...['-v', 'error', '-count_frames', '-select_streams', 'v:0', '-show_entries', wanted],
    ...['-of', 'json', path],
  ]);
  let [text, errors] = ['', ''];
  child.stdout.on('data', (d) => {
    text += d;
  });
  child.stderr.on('data', (d) => {
    errors = (errors + d).slice(-4000);
  });
  const failed = once(child, 'error').then(([error]) => {
    throw missing(error);
  });
  failed.catch(() => {});
  const done = ended(child, 'ffprobe', () => errors);
  done.catch(() => {});
  await Promise.race([done, failed]);
  const { streams, format } = probed.parse(JSON.parse(text));
  const [s] = streams;
  const [over, under] = s.r_frame_rate.split('/').map(Number);
  return {
    codec: s.codec_name,
    width: s.width,
    height: s.height,
    frames: s.nb_read_frames,
    rate: over / (under || 1),
    seconds: format.duration,
  };
}
