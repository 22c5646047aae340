import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync, unlinkSync } from 'node:fs';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { expect, type Page, test } from '@playwright/test';
import { openFace, openPage, typeInto } from './steps';

/** The quay is delivered: checked, rendered, played, mended, taken away. */
test.describe.configure({ mode: 'serial' });

let page: Page;
let faults: string[];
let folder = '';
const LANTERN = join('bin', 'lantern');

/** Two outputs of the picture, and one of clay. */
const OUTPUTS = {
  list: [
    { id: 'a', name: 'parts', layers: ['beauty', 'alpha', 'group.*'] },
    { id: 'b', name: 'data', layers: ['depth', 'mask.buoy'] },
    { id: 'c', name: 'clay', layers: ['beauty'], variant: { 'clay.on': true } },
  ],
  masks: [{ name: 'buoy', of: [{ kind: 'like', name: 'buoy*' }] }],
};
let outputsBefore: unknown;

/** Puts other outputs into the shot's draft; those that were there. */
async function exchange(outputs: unknown): Promise<unknown> {
  const { shots } = await (await page.request.get('/api/shots')).json();
  const { id } = shots.find((s: { name: string }) => s.name === 'quay-dawn');
  const { draft } = await (await page.request.get(`/api/shots/${id}`)).json();
  const headers = { 'if-match': String(draft.version) };
  const saved = await page.request.patch(`/api/shots/${id}/draft`, { data: { outputs }, headers });
  expect(saved.status()).toBe(200);
  return draft.outputs;
}

test.beforeAll(async ({ browser }) => {
  ({ page, faults } = await openPage(browser));
  outputsBefore = await exchange(OUTPUTS);
  await page.goto('/?shot=quay-dawn');
  await page.keyboard.press('2');
  await typeInto(page, 'Test scale', '10');
  await page.keyboard.press('6');
});
test.afterAll(() => page.close());

const check = () => page.getByTestId('check');
const cell = (frame: number) => page.getByRole('button', { name: new RegExp(`^frame ${frame}:`) });
const done = () => page.getByTestId('run-done');

const take = async (name: RegExp) => {
  await page.getByRole('button', { name: 'Take', exact: true }).click();
  await page.getByRole('menuitem', { name }).click();
};

test('what is left over is told before the start, each with what puts it right', async () => {
  await expect(page.getByTestId('file-count')).toHaveText('144');
  await page.keyboard.press('k');
  await expect(check()).toContainText('surfaces are clay');
  await expect(check()).toContainText('10 % of 1280 × 720');
  await check().getByRole('button', { name: 'own surfaces' }).click();
  await expect(check()).not.toContainText('clay');
  await page.getByLabel('frames of the run').fill('1-80');
  await expect(page.getByText('1-80: the shot has frames 1 to 48')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Start/ })).toBeDisabled();
  await page.getByLabel('frames of the run').fill('1-12x4');
  await expect(page.getByTestId('file-count')).toHaveText('9');
  await expect(page.getByTestId('run-names')).toContainText('.0001.exr … 0009.exr');
  const { violations } = await new AxeBuilder({ page }).include('aside, main').analyze();
  expect(violations.map((v) => `${v.id}: ${v.nodes[0]?.html}`)).toEqual([]);
});

test('three frames in two pictures are delivered while the page goes on, with a manifest that holds', async () => {
  await page.getByLabel('wanted by').fill('2031-02-03T08:00');
  await page.getByRole('button', { name: 'Start 3 frames' }).click();
  await expect(page.getByTestId('frames')).toBeVisible();
  await expect(cell(1)).toBeEnabled();
  await expect(done()).toHaveText('6', { timeout: 120000 });
  folder = (await page.getByTestId('run-folder').getByRole('button').textContent())!.trim();
  await expect(page.getByTestId('run-folder')).toContainText('9 files there ·');
  await expect(page.getByTestId('run-wanted')).toContainText(/: done [\d:]+ before/);
  await expect.poll(() => readdirSync(folder).includes('manifest.json')).toBe(true);
  await expect
    .poll(() => JSON.parse(readFileSync(join(folder, 'manifest.json'), 'utf8')).complete, { timeout: 20000 })
    .toBe(true);
  expect(execFileSync(LANTERN, ['verify', folder]).toString()).toContain('9 of 9 files are as they were delivered');
  const main = readdirSync(folder).find((f) => f.includes('_parts_') && f.endsWith('0009.exr'))!;
  expect(execFileSync('exrinfo', [join(folder, main)]).toString()).toContain('group.sun');
});

test('a frame is looked at, and all play at the shot’s rate', async () => {
  await cell(5).click();
  await expect(page.getByTestId('frame-about')).toContainText('frame 5');
  await expect(page.getByText(/run \d\d frame 5/).first()).toBeVisible();
  await page.getByRole('button', { name: 'play the run' }).click();
  const seen = new Set<string>();
  await expect
    .poll(async () => seen.add((await page.getByTestId('frame-about').textContent()) ?? '').size, { intervals: [40] })
    .toBeGreaterThan(2);
  await page.getByRole('button', { name: 'stop playing the run' }).click();
});

test('files that are gone are rendered again to the same bits, and all come as one .zip', async () => {
  const names = readdirSync(folder)
    .filter((f) => f.endsWith('.exr'))
    .sort();
  for (const name of [names[0], names[5]]) unlinkSync(join(folder, name));
  await page.getByRole('button', { name: 'Again', exact: true }).click();
  await page.getByRole('menuitem', { name: /gone or changed/ }).click();
  await expect(page.getByText('2 frames rendered again')).toBeVisible();
  await expect.poll(() => readdirSync(folder).filter((f) => /^[^.].*exr$/.test(f)).length, { timeout: 60000 }).toBe(9);
  await expect(done()).toHaveText('6');
  await expect
    .poll(() => {
      try {
        return execFileSync(LANTERN, ['verify', folder]).toString();
      } catch (error) {
        return String((error as { stdout: Buffer }).stdout);
      }
    })
    .toContain('9 of 9 files');
  const waiting = page.waitForEvent('download');
  await take(/as \.zip/);
  const path = await (await waiting).path();
  const told = execFileSync('python3', [
    '-c',
    'import sys,zipfile;z=zipfile.ZipFile(sys.argv[1]);print(z.testzip(),len(z.namelist()))',
    path,
  ]);
  expect(told.toString().trim()).toBe('None 10');
});

test('its frames become a movie that plays, a sheet, and a report that opens by itself', async ({ browser }) => {
  await take(/a movie/);
  await page.getByRole('button', { name: 'Make the movie' }).click();
  const movies = page.getByTestId('movies');
  await expect(movies).toContainText('3 frames · 24 a second · 0.13 s · 128×72');
  const [name] = readdirSync(folder).filter((f) => f.endsWith('.webm'));
  const counted = ['-v', 'error', '-count_frames', '-show_entries', 'stream=nb_read_frames', '-of', 'csv=p=0'];
  expect(
    execFileSync('ffprobe', [...counted, join(folder, name)])
      .toString()
      .trim(),
  ).toBe('3');
  await movies.getByRole('button', { name: 'watch' }).click();
  const seconds = () => page.locator('video').evaluate((v: HTMLVideoElement) => [v.duration, v.videoWidth]);
  await expect.poll(seconds).toEqual([expect.closeTo(0.125, 2), 128]);
  await page.getByRole('button', { name: 'Close' }).click();
  const sheet = page.waitForEvent('download');
  await take(/a sheet/);
  expect(
    readFileSync(await (await sheet).path())
      .subarray(1, 4)
      .toString(),
  ).toBe('PNG');
  const report = page.waitForEvent('download');
  await take(/a report/);
  const file = join(folder, 'report.html');
  await (await report).saveAs(file);
  const other = await browser.newPage();
  const asked: string[] = [];
  other.on('request', (r) => asked.push(r.url().slice(0, 5)));
  await other.goto(`file://${file}`);
  await expect(other.getByRole('heading', { level: 1 })).toHaveText(/^quay-dawn: run \d\d/);
  await expect
    .poll(() =>
      other
        .locator('img')
        .first()
        .evaluate((i: HTMLImageElement) => i.naturalWidth),
    )
    .toBe(128);
  expect(asked).toEqual(['file:']);
  await other.close();
});

test('a run is paused, goes on and is ended; what is delivered is found again after a reload', async () => {
  await page.getByRole('button', { name: 'put another run together' }).click();
  await page.getByLabel('frames of the run').fill('20-40');
  await page.getByRole('button', { name: 'Start 21 frames' }).click();
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(page.getByRole('button', { name: 'Go on' })).toBeVisible();
  await openFace(page, 'Machines');
  await expect(page.getByTestId('doing')).toHaveText('waits');
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect(page.getByTestId('doing')).toContainText('quay-dawn run');
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect(page.getByText('ended').first()).toBeVisible();
  await page.reload();
  await expect(page.getByTestId('runs').getByRole('button', { name: /^run \d\d/ })).toHaveCount(2);
  await page
    .getByTestId('runs')
    .getByRole('button', { name: /^run \d\d/ })
    .last()
    .click();
  await expect(done()).toHaveText('6');
  // The shot is left as it was found.
  await page.keyboard.press('2');
  await typeInto(page, 'Test scale', '50');
  await page.waitForTimeout(800);
  await exchange(outputsBefore);
  expect(faults).toEqual([]);
});
