import { readFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import { listed, newestTrial, openFace, openPage, typeInto } from './steps';

/** A noisy trial is denoised, looked at, taken back in part, relit, taken away; and the cheapest clean recipe is found. */
test.describe.configure({ mode: 'serial' });

let page: Page;
let faults: string[];
test.beforeAll(async ({ browser }) => {
  ({ page, faults } = await openPage(browser));
});
test.afterAll(() => page.close());

const type = (name: string, value: string) => typeInto(page, name, value);
const figure = async (name: string) => Number.parseFloat((await page.getByTestId(name).textContent())!);
const denoised = () => page.getByTestId('denoise-figures');
let noisy = 0;

test('a noisy trial is denoised by a key: what it leaves and what it changed is measured', async () => {
  await page.goto('/?shot=keepers-desk');
  await expect(page.getByTestId('live')).toContainText(/live|coarse/, { timeout: 60000 });
  await page.getByTestId('recipe-menu').click();
  await page.getByRole('menuitem', { name: /^Check/ }).click();
  await type('Test scale', '10');
  await type('Least camera samples', '8');
  await type('Most camera samples', '8');
  await type('Stop threshold', 'off');
  await openFace(page, 'Denoise');
  await expect(page.getByText('Put a finished trial into A')).toBeVisible();
  await openFace(page, 'Logbook');
  const before = await listed(page).count();
  await page.getByRole('button', { name: /^Log trial/ }).click();
  await expect(listed(page)).toHaveCount(before + 1);
  noisy = await newestTrial(page);
  await expect(page.getByTestId(`trial-${noisy}`).locator('img')).toBeVisible({ timeout: 240000 });
  await openFace(page, 'Denoise');
  await page.keyboard.press('q');
  await expect(denoised().getByTestId('true-error')).toContainText('%', { timeout: 120000 });
  await expect(page.getByText('Residual noise')).toBeVisible();
  const row = (name: string) => denoised().getByRole('row', { name: new RegExp(`^${name}`) });
  const plain = Number.parseFloat((await row('true error').getByRole('cell').nth(2).textContent())!);
  expect(await figure('true-error')).toBeLessThan(0.6 * plain);
  expect(await figure('noise-left')).toBeLessThan(await figure('true-error'));
  await expect(page.getByTestId('judged-places').getByRole('img')).toHaveCount(12);
});

test('it is wiped against the plain trial, and what was changed is laid over the picture', async () => {
  await expect(page.getByTestId('picture')).toContainText(`denoised`);
  await expect(page.getByRole('toolbar', { name: 'A and B' })).toBeVisible();
  await page.keyboard.press('Shift+n');
  await expect(page.getByTestId('legend')).toContainText('Changed');
  await page.keyboard.press('Shift+n');
  // A place goes close, the whole picture comes back.
  await page.getByTestId('judged-places').getByRole('button').first().click();
  await page.keyboard.press('f');
});

test('less strength leaves more noise, and none leaves the film as it was', async () => {
  const full = await figure('noise-left');
  await type('Strength in percent', '50');
  await expect.poll(() => figure('noise-left')).toBeGreaterThan(full);
  await type('Strength in percent', '0');
  const plain = await denoised()
    .getByRole('row', { name: /^noise left/ })
    .getByRole('cell')
    .nth(2)
    .textContent();
  await expect(denoised().getByTestId('noise-left')).toHaveText(plain!);
  await type('Strength in percent', '80');
});

test('its parts still add up, in a mood too, and are taken away', async () => {
  await page.keyboard.press('3');
  await expect(page.getByTestId('tally-group')).toContainText('dB');
  await expect(page.getByText('adds up')).toHaveCount(2);
  const download = page.waitForEvent('download');
  await page.getByTestId('download').click();
  const path = await (await download).path();
  expect(readFileSync(path).includes('lantern:denoised')).toBe(true);
  await page.keyboard.press('4');
  const measure = page.getByTestId('relit-noise');
  await expect(measure).toContainText('%');
  const asRendered = await measure.textContent();
  await type('lamp gain', '+1');
  await expect.poll(() => measure.textContent()).not.toBe(asRendered);
  await page.keyboard.press('2');
});

test('the cheapest clean recipe is found, logged, and its prediction stands beside what came', async () => {
  await openFace(page, 'Logbook');
  const target = page.getByRole('slider', { name: 'noise target, percent' });
  await target.focus();
  for (let i = 0; i < 9; i++) await page.keyboard.press('ArrowUp');
  const clean = page.getByTestId('clean');
  await clean.getByRole('button', { name: /^with denoising, reach/ }).click();
  await expect(clean).toContainText(/samples, off by [\d.]+ %/, { timeout: 240000 });
  const before = await listed(page).count();
  await clean.getByRole('button', { name: 'Use and log' }).click();
  await expect(listed(page)).toHaveCount(before + 1);
  const made = await newestTrial(page);
  await expect(page.getByTestId(`trial-${made}`)).toContainText('denoised', { timeout: 240000 });
  await expect(page.getByTestId(`trial-${made}`)).toContainText('of predicted');
  await page.keyboard.press('q');
  await openFace(page, 'Denoise');
  await expect(denoised().getByTestId('true-error')).toContainText('%', { timeout: 120000 });
  await expect(page.getByTestId('foretold')).toContainText('off by');
});

test('a reload finds all of it again', async () => {
  const left = await denoised().textContent();
  await page.reload();
  await expect(page.getByTestId('picture')).toContainText('denoised', { timeout: 60000 });
  await expect(denoised()).toHaveText(left!, { timeout: 60000 });
  expect(faults).toEqual([]);
  // What follows renders without it.
  await page.getByTestId('recipe-menu').click();
  await page.getByRole('menuitem', { name: /^Check/ }).click();
  await expect(page.getByRole('switch', { name: 'Denoise with the trial' })).not.toBeChecked();
});
