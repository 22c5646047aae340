import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';

/** Another shot of the film: chosen, shown in clay, lit beyond its limits, logged, and still there after a reload. */
test.describe.configure({ mode: 'serial' });

let page: Page;
test.beforeAll(async ({ browser }) => {
  page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto('/?shot=lantern-room');
});
test.afterAll(() => page.close());

async function type(name: string, value: string) {
  const field = page.getByRole('textbox', { name, exact: true });
  await field.fill(value);
  await field.press('Enter');
}

/** Mean red, green and blue of the live picture's canvas. */
const mean = () =>
  page.evaluate(() => {
    const canvas = document.querySelector<HTMLCanvasElement>('[data-testid="canvas-a"]')!;
    const d = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height).data;
    const sum = [0, 0, 0];
    for (let i = 0; i < d.length; i += 4) for (let c = 0; c < 3; c++) sum[c] += d[i + c] / (d.length / 4);
    return sum;
  });

test('a shot is chosen by name, and its own camera looks at it', async () => {
  await page.getByTestId('shot').click();
  await page.getByRole('menuitem', { name: 'quay-dawn' }).click();
  await expect(page.getByTestId('shot')).toContainText('quay-dawn');
  await expect(page.getByText('harbour master')).toBeVisible();
  await type('Test scale', '15');
  await type('Least camera samples', '2');
  await type('Most camera samples', '4');
  await expect(page.getByTestId('live')).toContainText('4 / 4', { timeout: 60000 });
  expect(Math.max(...(await mean()))).toBeGreaterThan(60);
});

test('frames are gathered, and what there is of them plays at the shot’s rate', async () => {
  await expect(page.getByTestId('frame')).toHaveText('1');
  const kept = page.getByTestId('kept-frames').locator('span');
  await page.getByRole('button', { name: 'gather missing frames' }).click();
  await expect.poll(() => kept.count(), { timeout: 60000 }).toBeGreaterThan(3);
  await page.getByRole('button', { name: /Stop$/ }).click();
  await page.getByRole('button', { name: 'play kept frames' }).click();
  const seen = new Set<string>();
  await expect
    .poll(async () => seen.add((await page.getByTestId('frame').textContent())!).size, {
      intervals: [30],
      timeout: 20000,
    })
    .toBeGreaterThan(2);
  await page.getByRole('button', { name: 'stop playing' }).click();
  await expect(page.getByTestId('frame')).toHaveText('1');
});

test('clay takes the colour off, and comes off again', async () => {
  const colored = await mean();
  const clay = page.getByRole('switch', { name: 'Clay' });
  await clay.click();
  await expect.poll(async () => Math.abs((await mean())[0] - colored[0]), { timeout: 60000 }).toBeGreaterThan(3);
  await expect(page.getByText('4 changed')).toBeVisible();
  await clay.click();
  await expect.poll(async () => Math.abs((await mean())[0] - colored[0]), { timeout: 60000 }).toBeLessThan(1);
});

test('what an output writes is kept by the next trial’s film, lost light too, which a reload finds again', async () => {
  await page.getByRole('switch', { name: 'Lost light' }).click();
  await page.keyboard.press('3');
  const motion = page.getByRole('checkbox', { name: 'write motion to the next frame' });
  await motion.click();
  await page.getByTestId('layers').getByRole('button', { name: 'motion to the next frame', exact: true }).click();
  await expect(page.getByTestId('legend')).toContainText('Motion');
  await page.getByRole('button', { name: 'one a family' }).click();
  await expect(page.getByTestId('file-names')).toContainText('quay-dawn_parts_beauty_01');
  await page.keyboard.press('2');
  await page.getByRole('button', { name: /^Log/ }).click();
  const entry = page.getByTestId('trial-1');
  await expect(entry.locator('img')).toBeVisible({ timeout: 120000 });
  await page.reload();
  await expect(page.getByTestId('shot')).toContainText('quay-dawn');
  await expect(entry).toBeVisible();
  await entry.click();
  await page.keyboard.press('3');
  await expect(page.getByTestId('layers')).toContainText('lost');
  await expect(motion).toBeChecked();
  await expect(page.getByTestId('absent')).toHaveCount(0);
  await page.getByRole('button', { name: 'check as written' }).click();
  await expect(page.getByTestId('proof')).toContainText(/groups add up \(−\d+ dB\)/);
  // A packing that loses is named, and its repair is checked at once.
  await page.getByRole('button', { name: 'packing: ZIP' }).click();
  await page.getByRole('menuitem', { name: /^DWAA/ }).click();
  await page.getByRole('button', { name: 'check as written' }).click();
  await expect(page.getByTestId('proof')).toContainText('DWAA takes too much of them');
  await page.getByRole('button', { name: 'pack as ZIP' }).click();
  await expect(page.getByTestId('proof')).toContainText(/groups add up \(−\d+ dB\)/);
  await page.getByRole('checkbox', { name: 'write sun' }).click();
  await expect(page.getByTestId('unwritten-group')).toContainText(/[1-9][\d.]* % of the light is unwritten: sun/);
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('unwritten-group')).toHaveCount(0);
  await page.getByRole('checkbox', { name: 'write roughness' }).click();
  await expect(page.getByTestId('absent')).toContainText('1 chosen layer not in 01');
  const name = 'quay-dawn_parts_data_01.0001.exr';
  await page.getByTestId('download-files').click();
  const download = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: new RegExp(name) }).click();
  expect((await download).suggestedFilename()).toBe(name);
  const header = execFileSync('exrheader', [await (await download).path()], { encoding: 'utf8' });
  for (const channel of ['depth.Z', 'motion.X']) expect(header).toContain(channel);
});

test('a mask is picked by clicking, a reload finds it again, and its plane is what the ids of the file say', async () => {
  await page.getByTestId('layers').getByRole('button', { name: 'mask', exact: true }).click();
  const editor = page.getByTestId('mask-editor');
  // Low in the picture, where the quay is.
  const click = (modifiers: 'Alt'[] = []) =>
    page.getByTestId('picture').click({ position: { x: 440, y: 440 }, modifiers });
  await click();
  await expect(editor.getByRole('listitem')).toHaveCount(1);
  const object = await editor.getByRole('listitem').textContent();
  await click(['Alt']);
  await expect(editor.getByRole('listitem')).toHaveCount(0);
  await click();
  await expect(editor.getByRole('listitem')).toHaveText(object!);
  await expect(page.getByTestId('unsaved')).toHaveCount(0);
  await page.waitForTimeout(1000);
  await page.reload();
  await expect(editor.getByRole('listitem')).toHaveText(object!, { timeout: 30000 });
  await page.getByTestId('trial-1').click();
  const saved: string[] = [];
  for (const family of ['data', 'masks']) {
    await page.getByTestId('download-files').click();
    const download = page.waitForEvent('download');
    await page.getByRole('menuitem', { name: `_${family}_` }).click();
    saved.push(await (await download).path());
  }
  const [data, mask] = saved;
  const picked = `${data}.exr`;
  const lantern = join(process.cwd(), 'bin/lantern');
  execFileSync(lantern, ['mask', data, '--pick', object!, '--out', picked]);
  const mean = (file: string) =>
    /Stats Avg: ([\d.]+)/.exec(execFileSync('oiiotool', ['--stats', file]).toString())?.[1];
  expect(mean(mask)).toBe(mean(picked));
  expect(Number(mean(mask))).toBeGreaterThan(0.001);
});

test('a source of light is dragged into another light group, which undo takes back', async () => {
  await page.getByRole('tab', { name: 'Lights', exact: true }).click();
  const lane = (group: string) => page.getByRole('region', { name: `light group ${group}`, exact: true });
  const [sun, sky] = [lane('sun').getByRole('button', { name: 'sun sun', exact: true }), lane('sky')];
  await expect(sun).toContainText('%', { timeout: 60000 });
  const [from, to] = [(await sun.boundingBox())!, (await sky.boundingBox())!];
  await page.mouse.move(from.x + 70, from.y + 10);
  await page.mouse.down();
  await page.mouse.move(to.x + 60, to.y + 60, { steps: 8 });
  await page.mouse.up();
  await expect(sky.getByRole('button', { name: 'sun sun', exact: true })).toBeVisible();
  await expect(lane('sun')).toHaveCount(0);
  await expect(page.getByTestId('otherwise-grouped')).toContainText('01');
  await page.keyboard.press('Control+z');
  await expect(sun).toBeVisible();
  await expect(page.getByTestId('otherwise-grouped')).toHaveCount(0);
});

test('an output with a picture of its own: things chosen by clicking, logged with the shot’s, and taken away', async () => {
  await page.getByRole('button', { name: 'add an output' }).click();
  await page.getByRole('menuitem', { name: 'Things with holes where others stand' }).click();
  await expect(page.getByTestId('picture')).toContainText('rendered: Click takes in');
  // Low in the picture, where the quay is; the whole picture is there to click in.
  const variant = page.getByTestId('variant');
  await expect(async () => {
    await page.getByTestId('picture').click({ position: { x: 440, y: 440 } });
    await expect(variant.getByRole('listitem')).toHaveCount(1, { timeout: 2000 });
  }).toPass({ timeout: 60000 });
  const object = await variant.getByRole('listitem').textContent();
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('picture')).toContainText('live, cut');
  await expect.poll(async () => Math.max(...(await mean())), { timeout: 60000 }).toBeLessThan(90);
  await page.getByRole('tab', { name: 'Pictures', exact: true }).click();
  const sheet = page.getByTestId('pictures');
  await sheet.getByRole('button', { name: 'what do they take?' }).click();
  await expect(sheet.getByTestId('told').first()).toContainText(/≈ .+ %/, { timeout: 120000 });
  await sheet.getByRole('button', { name: 'Log all 2' }).click();
  await expect(sheet.locator('img')).toHaveCount(2, { timeout: 180000 });
  await page.reload();
  await expect(variant.getByRole('button', { name: object! })).toBeVisible({ timeout: 30000 });
  await sheet.getByRole('button', { name: 'picture of cut' }).click();
  await page.getByTestId('layers').getByRole('button', { name: 'alpha', exact: true }).click();
  const download = page.waitForEvent('download');
  await page.getByTestId('download').click();
  const file = await (await download).path();
  expect(execFileSync('exrheader', [file], { encoding: 'utf8' })).toContain('scope.others');
  // Beauty and alpha share the first part.
  const stats = execFileSync('oiiotool', ['--stats', file]).toString();
  const share = Number(/Stats Avg: [\d.]+ [\d.]+ [\d.]+ ([\d.]+)/.exec(stats)?.[1]);
  expect(share).toBeGreaterThan(0.001);
  expect(share).toBeLessThan(0.9);
});
