import { readFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import { openFace, openPage, typeInto } from './steps';

/** A noisy shot is tuned: its noise told apart, a recipe proposed and held against what came of it, its depth scrubbed. */
test.describe.configure({ mode: 'serial' });

let page: Page;
let faults: string[];
test.beforeAll(async ({ browser }) => {
  ({ page, faults } = await openPage(browser));
  await page.goto('/?shot=keepers-desk');
});
test.afterAll(() => page.close());

const type = (name: string, value: string) => typeInto(page, name, value);
const face = (name: string) => openFace(page, name);
const view = (name: string) => page.getByRole('navigation', { name: 'Views' }).getByRole('button', { name }).click();
const live = () => page.getByTestId('live');

test('the noise of a noisy shot is told by light and path, by object, and by what cures it', async () => {
  await view('Tune');
  await type('Test scale', '8');
  await type('Least camera samples', '4');
  await type('Most camera samples', '16');
  await type('First hit', '2');
  await expect(live()).toContainText('16 / 16', { timeout: 120000 });
  await face('Sources and cures');
  const sources = page.getByTestId('noise-sources');
  await expect(sources).toContainText(/lamp, (caustic|indirect)/);
  await expect(sources).toContainText(/\d+% on \w/);
  // What the shot has none of says so in its row.
  await expect(page.getByTestId('recipe-rows')).toContainText('no fog here');
});

test('a row tells what doubling it does: bounds at first, from patches once they have been rendered', async () => {
  const outlook = page.getByTestId('outlook');
  const row = page.getByTestId('recipe-rows').getByText('Light samples');
  await row.hover();
  await expect(outlook).toContainText('bounds by the shares');
  await page.getByTestId('picture').hover();
  await page.getByRole('button', { name: 'measure', exact: true }).click();
  await expect(page.getByRole('button', { name: 'measure', exact: true })).toHaveCount(0, { timeout: 180000 });
  await row.hover();
  await expect(outlook).toContainText('predicted from patches');
  await expect(outlook).toContainText(/×2 [\d.]+ %/);
});

test('a recipe is proposed for a noise, logged, and held against what was measured', async () => {
  await face('Logbook');
  const target = page.getByRole('slider', { name: 'noise target, percent' });
  await target.focus();
  for (let i = 0; i < 24; i++) await page.keyboard.press('ArrowUp');
  const wanted = Number(await target.getAttribute('aria-valuenow'));
  expect(wanted).toBeGreaterThan(10);
  await page.getByRole('button', { name: /^reach/ }).click();
  const proposal = page.getByTestId('proposal');
  await expect(proposal).toContainText(/camera samples/, { timeout: 180000 });
  // Hollow in the map: what is predicted of the recipe as it stands, and of the proposal.
  await expect(page.getByTestId('predicted')).toHaveCount(2);
  await proposal.getByRole('button', { name: 'Use and log' }).click();
  const entry = page.getByTestId('trial-1');
  await expect(entry.locator('img')).toBeVisible({ timeout: 240000 });
  await expect(entry).toContainText(/[+−±]\d+ %/);
  const words = (await entry.locator('p').first().textContent()) ?? '';
  const measured = Number(/([\d.]+) %/.exec(words)![1]);
  expect(measured).toBeLessThan(wanted * 1.4);
  expect(measured).toBeGreaterThan(wanted * 0.5);
});

test('A stands beside B in noise, time and errors', async () => {
  await type('Most camera samples', '64');
  await type('Least camera samples', '64');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: /^Log trial/ }).click();
  await expect(page.getByTestId('trial-2').locator('img')).toBeVisible({ timeout: 240000 });
  await face('A and B');
  const against = page.getByTestId('against');
  await expect(against).toContainText('FLIP', { timeout: 60000 });
  await expect(against).toContainText(/PSNR\s*[\d.]+ dB/);
  await page.getByRole('button', { name: 'FLIP map' }).click();
  await expect(page.getByText('0 to 1')).toBeVisible();
  await page.getByRole('button', { name: 'FLIP map' }).click();
});

test('ray depth is scrubbed from one film, and the least that is enough taken into the recipe', async () => {
  await face('Logbook');
  await page.getByTestId('trial-2').getByRole('button').first().click();
  await face('Ray depth');
  await expect(page.getByText('This trial keeps no bounce ledger.')).toBeVisible();
  await page.getByRole('button', { name: 'diffuse bounces' }).click();
  await page.getByRole('button', { name: /^Log trial/ }).click();
  await face('Logbook');
  await expect(page.getByTestId('trial-3').locator('img')).toBeVisible({ timeout: 240000 });
  await face('Ray depth');
  const curve = page.getByRole('slider', { name: 'limit of diffuse' });
  await expect(curve).toBeVisible({ timeout: 60000 });
  const canvas = () =>
    page.evaluate(() => {
      const c = document.querySelector<HTMLCanvasElement>('[data-testid="canvas-a"]')!;
      const d = c.getContext('2d')!.getImageData(0, 0, c.width, c.height).data;
      return d.reduce((s, v, i) => (i % 4 === 3 ? s : s + v), 0) / d.length;
    });
  const whole = await canvas();
  await curve.focus();
  for (let i = 0; i < 17; i++) await page.keyboard.press('ArrowLeft');
  await expect(curve).toHaveAttribute('aria-valuenow', '0');
  await expect.poll(canvas).toBeLessThan(whole * 0.98);
  await page.keyboard.press('ArrowRight');
  await page.getByRole('button', { name: 'Take 1' }).click();
  await expect(page.getByRole('textbox', { name: 'Diffuse', exact: true })).toHaveValue('1');
  await expect(page.getByTestId('saving')).toContainText(/1 taken: /, { timeout: 120000 });
  await expect.poll(canvas, { timeout: 30000 }).toBeGreaterThan(whole * 0.99);
});

test('a recipe is kept under a name, handed over as JSON, and taken back; a wrong one is refused by its setting', async () => {
  const menu = async (item: string | RegExp) => {
    await page.getByTestId('recipe-menu').click();
    await page.getByRole('menuitem', { name: item }).click();
  };
  await menu('Keep as');
  await page.getByRole('textbox', { name: 'name of the recipe' }).fill('Final');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByText('Final ships with the product')).toBeVisible();
  await page.getByRole('textbox', { name: 'name of the recipe' }).fill('desk at dusk');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByTestId('recipe-menu')).toHaveText('desk at dusk');
  const download = page.waitForEvent('download');
  await menu('Hand over as JSON');
  const text = readFileSync(await (await download).path(), 'utf8');
  const written = JSON.parse(text);
  expect(written.rayDepth.diffuse).toBe(1);
  const take = async (json: unknown) => {
    const chooser = page.waitForEvent('filechooser');
    await menu('Take from JSON');
    const buffer = Buffer.from(JSON.stringify(json));
    await (await chooser).setFiles([{ name: 'desk.json', mimeType: 'application/json', buffer }]);
  };
  await take({ ...written, rayDepth: { ...written.rayDepth, sideways: 3 } });
  await expect(page.getByText('desk.json: rayDepth.sideways: unknown setting')).toBeVisible();
  await expect(page.getByRole('textbox', { name: 'Diffuse', exact: true })).toHaveValue('1');
  await take({ ...written, rayDepth: { ...written.rayDepth, diffuse: 2 } });
  await expect(page.getByRole('textbox', { name: 'Diffuse', exact: true })).toHaveValue('2');
  await expect(page.getByTestId('recipe-menu')).toContainText('1 changed');
  await menu(/^desk at dusk/);
  await expect(page.getByRole('textbox', { name: 'Diffuse', exact: true })).toHaveValue('1');
});

test('a reload finds it all again, and no error was written', async () => {
  await page.reload();
  await face('Logbook');
  await expect(page.getByTestId('trial-1')).toContainText(/[+−±]\d+ %/);
  await expect(page.getByTestId('trial-3').locator('img')).toBeVisible();
  await expect(page.getByRole('textbox', { name: 'Diffuse', exact: true })).toHaveValue('1');
  // A name that ships is refused by the server, and the browser writes that down.
  expect(faults.filter((f) => !/status of 409/.test(f))).toEqual([]);
});
