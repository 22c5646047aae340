import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { expect, type Page, test } from '@playwright/test';
import { openFace, openPage, pickOption, typeInto } from './steps';

/** The morning at the quay over its plate: put together, masked, graded, keyed, measured, saved, and read by other tools. */
test.describe.configure({ mode: 'serial' });

let page: Page;
let faults: string[];
const folder = mkdtempSync(join(tmpdir(), 'lantern-comp-'));

test.beforeAll(async ({ browser }) => {
  ({ page, faults } = await openPage(browser));
  await page.goto('/?shot=quay-dawn');
  await page.keyboard.press('2');
  await typeInto(page, 'Test scale', '25');
  await page.keyboard.press('5');
});
test.afterAll(() => page.close());

/** A text that changes with the picture. */
const look = () =>
  page.evaluate(() => {
    const canvas = document.querySelector<HTMLCanvasElement>('[data-testid="canvas-a"]')!;
    const d = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height).data;
    let hash = 0;
    for (let i = 0; i < d.length; i += 4) hash = (hash * 31 + d[i] + d[i + 1] * 3 + d[i + 2] * 7) | 0;
    return `${canvas.width} ${hash}`;
  });
/** Mean display values of the upper left corner, where the sky is. */
const sky = () =>
  page.evaluate(() => {
    const canvas = document.querySelector<HTMLCanvasElement>('[data-testid="canvas-a"]')!;
    const [w, h] = [canvas.width >> 2, canvas.height >> 3];
    const d = canvas.getContext('2d')!.getImageData(0, 0, w, h).data;
    const sums = [0, 0, 0];
    for (let i = 0; i < d.length; i += 4) for (let c = 0; c < 3; c++) sums[c] += d[i + c];
    return sums.map((s) => s / (w * h));
  });
const entries = () => page.getByTestId('entry');
const number = (label: string) => page.getByLabel(label, { exact: true }).first();
async function set(label: string, value: string) {
  await number(label).fill(value);
  await number(label).press('Enter');
  await number(label).blur();
}
async function choose(button: string, item: string) {
  await page.getByRole('button', { name: button, exact: true }).click();
  await page.getByRole('menuitem', { name: item }).first().click();
}
async function saved(item: RegExp): Promise<string> {
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  const waiting = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: item }).click();
  const download = await waiting;
  const file = join(folder, download.suggestedFilename());
  await download.saveAs(file);
  return file;
}

test('light groups lie over the plate of the shot, all of them, once; the sky of the film is cut out', async () => {
  await expect(page.getByTestId('starts')).toBeVisible({ timeout: 60000 });
  const before = await sky();
  await page.getByRole('button', { name: 'Its light groups over morning sky' }).click();
  await expect(entries()).toHaveCount(4);
  await expect(page.getByTestId('parts-in')).toHaveText('all, once');
  // The plate is bluer up there than the sky that was rendered.
  await expect.poll(async () => (await sky())[2] - (await sky())[0] - (before[2] - before[0])).toBeGreaterThan(10);
  await expect(page.getByTestId('stack-noise')).toHaveText(/%/, { timeout: 60000 });
});

test('openness darkens by a fifth, wet stones are brought up through their roughness, and it is graded', async () => {
  await choose('Add a layer', 'openness to the surroundings');
  await set('opacity of openness to the surroundings', '20');
  await choose('Do to all', 'exposure');
  await set('exposure of exposure', '1.5');
  const everywhere = await look();
  await choose('new mask', 'roughness');
  await expect.poll(look, { timeout: 30000 }).not.toBe(everywhere);
  await expect(page.getByTestId('stack')).toContainText('where roughness');
  await choose('Do to all', 'contrast');
  await set('contrast of contrast', '1.15');
  await choose('Do to all', 'glow');
  await expect(entries()).toHaveCount(8);
  await expect(page.getByText(/not in the live picture/)).toHaveCount(0);
});

test('focus goes from near to far over twelve frames, by keys', async () => {
  await choose('Do to all', 'focus');
  await set('focus distance of focus', '4');
  await number('focus distance of focus').focus();
  await page.keyboard.press('k');
  await openFace(page, 'Keys');
  await expect(page.getByTestId('stack-keys')).toContainText('focus · metres');
  const strip = page.getByRole('slider', { name: 'frame of the stack' });
  await strip.focus();
  for (let i = 0; i < 11; i++) await page.keyboard.press('ArrowRight');
  await expect(page.getByTestId('stack-keys')).toContainText('frame 12');
  await set('focus distance of focus', '30');
  await expect(page.getByRole('button', { name: 'key of focus · metres at frame 12' })).toBeVisible();
  for (let i = 0; i < 11; i++) {
    await strip.focus();
    await page.keyboard.press('ArrowLeft');
  }
  await expect(number('focus distance of focus')).toHaveValue('4');
});

test('held, H shows what was rendered; scopes tell the levels of the result', async () => {
  await page.getByTestId('stack').click({ position: { x: 5, y: 300 } });
  const stacked = await sky();
  await page.keyboard.down('h');
  await expect.poll(async () => Math.abs((await sky())[2] - stacked[2]), { timeout: 30000 }).toBeGreaterThan(4);
  await page.keyboard.up('h');
  await expect.poll(async () => Math.abs((await sky())[2] - stacked[2]), { timeout: 30000 }).toBeLessThan(3);
  await openFace(page, 'Scopes');
  await expect(page.getByRole('img', { name: /waveform/ })).toBeVisible({ timeout: 30000 });
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.filter((v) => v.impact === 'serious' || v.impact === 'critical').map((v) => v.id)).toEqual([]);
});

test('the result is saved as OpenEXR and PNG that other tools read, and the stack as JSON', async () => {
  const exr = await saved(/OpenEXR/);
  expect(exr).toContain('quay-dawn_live_comp.0001.exr');
  const told = execFileSync('oiiotool', ['--info', '-v', exr], { encoding: 'utf8' });
  expect(told).toMatch(/320 x\s+180, 4 channel, float openexr/);
  const png = await saved(/PNG/);
  expect(execFileSync('oiiotool', ['--info', png], { encoding: 'utf8' })).toMatch(/320 x\s+180, 3 channel, uint16 png/);
  // Linear light goes beyond white, as displayed it does not; in the middle both tell of the same picture.
  const stats = (file: string, which: string) =>
    new RegExp(`Stats ${which}: ([\\d.]+) ([\\d.]+) ([\\d.]+)`)
      .exec(execFileSync('oiiotool', ['--stats', file], { encoding: 'utf8' }))!
      .slice(1)
      .map(Number);
  expect(Math.max(...stats(exr, 'Max'))).toBeGreaterThan(1);
  expect(stats(exr, 'FiniteCount')[0]).toBe(320 * 180);
  const [light, shown] = [stats(exr, 'Avg'), stats(png, 'Avg').map((v) => v / 65535)];
  light.forEach((v, c) => {
    // A mean of what is displayed lies below what is displayed of the mean, the curve being hollow.
    expect(shown[c]).toBeGreaterThan(0.5 * v ** (1 / 2.2));
    expect(shown[c]).toBeLessThan(v ** (1 / 2.2) + 0.05);
  });
  expect(statSync(png).size).toBeGreaterThan(50000);
  const json = JSON.parse(readFileSync(await saved(/Save as JSON/), 'utf8'));
  expect(json.entries).toHaveLength(7);
  expect(json.entries[6].operation.metres.keys).toEqual([
    { frame: 1, value: 4 },
    { frame: 12, value: 30 },
  ]);
});

test('worked in ACEScg and shown on P3 it leaves as TIFF that says so, and looks the same here', async () => {
  const before = await sky();
  await page.getByRole('button', { name: 'sRGB', exact: true }).click();
  await pickOption(page, page.getByLabel('working space'), 'ACEScg');
  await pickOption(page, page.getByLabel('screen'), 'Display P3');
  // Esc closes it, and no more: the picture goes on.
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('colour')).toHaveCount(0);
  await expect(page.getByTestId('stack')).toContainText('from ACEScg');
  await expect
    .poll(async () => Math.max(...(await sky()).map((v, c) => Math.abs(v - before[c]))), { timeout: 30000 })
    .toBeLessThan(6);
  const tiff = await saved(/TIFF/);
  const told = execFileSync('oiiotool', ['--info', '-v', tiff], { encoding: 'utf8' });
  expect(told).toMatch(/320 x\s+180, 3 channel, uint16 tiff/);
  expect(told).toContain('ICCProfile');
  const exr = execFileSync('oiiotool', ['--info', '-v', await saved(/OpenEXR/)], { encoding: 'utf8' });
  expect(exr).toMatch(/chromaticities: 0\.713, 0\.293/);
  // Exposure in stops has its own scale; what the screen cuts is striped.
  const plain = await look();
  await page.keyboard.press('Shift+W');
  await expect(page.getByText('stops from grey')).toBeVisible({ timeout: 30000 });
  await page.keyboard.press('Shift+W');
  await expect(page.getByText('stops from grey')).toHaveCount(0);
  await page.keyboard.press('w');
  await expect.poll(look, { timeout: 30000 }).not.toBe(plain);
  await page.keyboard.press('w');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('stack')).toContainText('shown on');
});

test('layers of a file lie in the stack; primaries that it is wrong about are noticed and mended by a click', async () => {
  const film = join(folder, 'quay.exr');
  const wrong = join(folder, 'other-desk.exr');
  const own = ['render', 'quay-dawn', '--size', '160x90', '--recipe', 'Sketch', '--layers', 'beauty', 'depth'];
  execFileSync(process.execPath, ['build/cli.mjs', ...own, '--out', film]);
  // What is in ACEScg now, and still says that it is not.
  const toAcescg = '0.613097,0.070194,0.020616,0.339523,0.916354,0.109570,0.047379,0.013452,0.869815';
  execFileSync('oiiotool', [film, '--subimage', '0', '--ccmatrix', toAcescg, '-o', wrong]);
  await page.getByRole('button', { name: 'Add a layer', exact: true }).click();
  const choosing = page.waitForEvent('filechooser');
  await page.getByRole('menuitem', { name: 'layers of an OpenEXR file' }).click();
  await (await choosing).setFiles(wrong);
  await expect(page.getByText(/other-desk\.exr: 1 layer/)).toBeVisible({ timeout: 30000 });
  await page.getByRole('button', { name: 'Add a layer', exact: true }).click();
  await page.getByRole('menuitem', { name: 'other-desk' }).press('ArrowRight');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('stack')).toContainText('other-desk beauty');
  await page.getByRole('button', { name: 'take it as ACEScg' }).click({ timeout: 30000 });
  await expect(page.getByLabel('primaries of other-desk')).toContainText('ACEScg');
  await expect(page.getByRole('button', { name: 'take it as ACEScg' })).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('stack')).not.toContainText('other-desk');
});

test('all of it is there after a reload; entries are switched, moved and taken back step by step', async () => {
  await page.reload();
  await expect(entries()).toHaveCount(9, { timeout: 60000 });
  await page.getByRole('checkbox', { name: 'glow on' }).click();
  await expect(page.getByRole('checkbox', { name: 'glow on' })).not.toBeChecked();
  await choose('menu of contrast', 'Down');
  const table = join(folder, 'dusk.cube');
  writeFileSync(table, 'LUT_1D_SIZE 2\n0 0 0\n1 0.5 1\n');
  const greenOverRed = async () => {
    const [r, g] = await sky();
    return r === 0 ? Number.NaN : g / r;
  };
  await expect.poll(greenOverRed, { timeout: 30000 }).toBeGreaterThan(0.85);
  const choosing = page.waitForEvent('filechooser');
  await choose('Do to all', 'look table');
  await (await choosing).setFiles(table);
  await expect(page.getByTestId('stack')).toContainText('dusk');
  // It ends at white, and what is brighter is cut there.
  await expect(page.getByText(/of the values lie beyond its ends/)).toBeVisible({ timeout: 30000 });
  // Green is halved as it is encoded.
  await expect.poll(greenOverRed, { timeout: 30000 }).toBeLessThan(0.7);
  const names = () => entries().allInnerTexts();
  const target = page.getByRole('checkbox', { name: 'exposure on' });
  // What is measured of the stack comes into its rows, and moves those below.
  let before = 0;
  await expect
    .poll(
      async () => {
        const { y } = (await target.boundingBox())!;
        const isStill = y === before;
        before = y;
        return isStill;
      },
      { intervals: [500] },
    )
    .toBe(true);
  const from = (await page.getByRole('button', { name: 'drag look table' }).boundingBox())!;
  await page.mouse.move(from.x + 4, from.y + 4);
  await page.mouse.down();
  await page.mouse.move(from.x + 10, from.y + 40, { steps: 4 });
  // The line where it would drop follows the hand, wherever the row has gone meanwhile.
  const under = page.getByTestId('entry').filter({ has: target });
  await expect
    .poll(async () => {
      const to = (await target.boundingBox())!;
      await page.mouse.move(to.x + 5, to.y + 5);
      await page.mouse.move(to.x + 4, to.y + 4);
      return under.getAttribute('class');
    })
    .toContain('border-t-2');
  await page.mouse.up();
  const isAbove = (texts: string[]) =>
    texts.findIndex((t) => t.includes('Light by')) - texts.findIndex((t) => t.includes('Look table'));
  await expect.poll(async () => isAbove(await names())).toBe(-1);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(entries()).toHaveCount(9);
  await page.getByRole('button', { name: 'Its light groups over morning sky' }).waitFor({ state: 'hidden' });
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('checkbox', { name: 'glow on' })).toBeChecked();
  await choose('Save', 'Begin anew');
  await expect(page.getByTestId('starts')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(entries()).toHaveCount(9);
  // Films of the shot keep what its stack needs: those of what comes after this are its own again.
  const kept = page.waitForResponse((r) => r.url().endsWith('/draft') && r.ok());
  await choose('Save', 'Begin anew');
  await expect(page.getByTestId('starts')).toBeVisible();
  await kept;
  expect(faults).toEqual([]);
});
