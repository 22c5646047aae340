import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type MovieCodec, readMovie, writeMovie } from './movie';

const folder = mkdtempSync(join(tmpdir(), 'lantern-movie-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string) => join(folder, name);

/** A ramp of red across, one of green down, and a blue that grows from frame to frame. */
function frame(width: number, height: number, number: number): Uint8Array {
  const out = new Uint8Array(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      out.set([(x / (width - 1)) * 255, (y / (height - 1)) * 255, 20 + number * 20], (y * width + x) * 3);
  return out;
}
async function* frames(width: number, height: number, count: number) {
  for (let i = 0; i < count; i++) yield frame(width, height, i);
}

test.each<[MovieCodec, number, number, number]>([
  ['av1', 96, 64, 24],
  ['vp9', 97, 65, 12.5],
])('%s of %d×%d at %d a second: every frame is there, in its colours', async (codec, width, height, rate) => {
  const path = at(`${codec}.webm`);
  await writeMovie(path, { width, height, rate, codec }, frames(width, height, 10));
  const facts = await readMovie(path);
  const [wide, high] = [width + (width % 2), height + (height % 2)];
  expect(facts).toEqual({ codec, width: wide, height: high, frames: 10, rate, seconds: expect.closeTo(10 / rate, 2) });
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-'], {
    maxBuffer: 1 << 26,
  });
  expect(raw.length).toBe(wide * high * 3 * 10);
  for (let i = 0; i < 10; i++) {
    const truth = frame(width, height, i);
    let squares = 0;
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width * 3; x++)
        squares += (raw[(i * high + y) * wide * 3 + x] - truth[y * width * 3 + x]) ** 2;
    // Another matrix of luma and chroma, or the other range, would be off by ten and more.
    expect(Math.sqrt(squares / truth.length)).toBeLessThan(4);
  }
});

test('what goes wrong is told in words, and a stop leaves at once', async () => {
  const form = { width: 64, height: 64, rate: 24, codec: 'av1' } as const;
  await expect(writeMovie(at('none/x.webm'), form, frames(64, 64, 40))).rejects.toThrow(/none.x\.webm: No such file/);
  await expect(writeMovie(at('y.webm'), form, frames(63, 64, 1))).rejects.toThrow('a frame is not of 64×64 pixels');
  await expect(readMovie(at('nothing.webm'))).rejects.toThrow(/nothing\.webm: No such file/);
  const stop = new AbortController();
  async function* endless() {
    for (let i = 0; ; i++) {
      if (i === 20) stop.abort();
      yield frame(64, 64, i % 10);
    }
  }
  await expect(writeMovie(at('z.webm'), form, endless(), stop.signal)).rejects.toThrow('stopped');
  expect(existsSync(at('none'))).toBe(false);
});
