import { readFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import { listed, newestTrial, openFace, openPage, pickOption, typeInto } from './steps';

/** A working day: a noisy region and its cure, a ladder, depth to the knee, and the budget of a sequence. */
test.describe.configure({ mode: 'serial' });

let page: Page;
let faults: string[];
test.beforeAll(async ({ browser }) => {
  ({ page, faults } = await openPage(browser));
});
test.afterAll(() => page.close());

const type = (name: string, value: string) => typeInto(page, name, value);
const face = (name: string) => openFace(page, name);
const open = async (shot: string) => {
  await page.goto(`/?shot=${shot}`);
  await expect(page.getByTestId('live')).toContainText(/live|coarse/, { timeout: 60000 });
};
/** Takes a recipe that ships, whatever the shot was left with. */
async function takeCheck() {
  await page.getByTestId('recipe-menu').click();
  await page.getByRole('menuitem', { name: /^Check/ }).click();
}
const trial = (number: number) => page.getByTestId(`trial-${number}`);
const pictured = (number: number) => expect(trial(number).locator('img')).toBeVisible({ timeout: 240000 });
const newest = () => newestTrial(page);
let cured = 0;

test('a region tells what its noise is, and that the lamp in the glass is the cause', async () => {
  await open('keepers-desk');
  await type('Test scale', '20');
  await type('Least camera samples', '16');
  await type('Most camera samples', '16');
  await type('Stop threshold', 'off');
  await face('Sources and cures');
  const box = (await page.getByTestId('picture').boundingBox())!;
  await page.keyboard.press('r');
  const at = (x: number, y: number) => page.mouse.move(box.x + box.width * x, box.y + box.height * y, { steps: 4 });
  await at(0.3, 0.3);
  await page.mouse.down();
  await at(0.6, 0.7);
  await page.mouse.up();
  await expect(page.getByRole('button', { name: /^Log region/ })).toBeVisible();
  const sources = page.getByTestId('noise-sources');
  await expect(sources).toContainText('Noise in the region', { timeout: 120000 });
  await expect(sources).toContainText(/lamp, (caustic|indirect)/);
  // Where the lamp's own noise is.
  await sources
    .getByRole('button', { name: /lamp, / })
    .first()
    .click();
  await expect(page.getByTestId('legend')).toContainText('Noise of lamp');
  await sources
    .getByRole('button', { name: /lamp, / })
    .first()
    .click();
});

test('cures are tried, one of the scene is made with one click, and its trial shows predicted against measured', async () => {
  await expect(page.getByTestId('live')).toContainText('16 / 16', { timeout: 120000 });
  await face('Logbook');
  const before = await listed(page).count();
  await page.getByRole('button', { name: /^Log region/ }).click();
  await expect(listed(page)).toHaveCount(before + 1);
  await pictured(await newest());
  await face('Sources and cures');
  await page.getByRole('button', { name: 'Try all' }).click();
  const cures = page.getByTestId('cure');
  await expect(cures.first()).toBeVisible({ timeout: 240000 });
  const words = await cures.allTextContents();
  expect(words.some((w) => /later outlier limit/.test(w))).toBe(true);
  const gains = words.map((w) => Number(/×([\d.]+)/.exec(w)![1]));
  expect(gains).toEqual([...gains].sort((a, b) => b - a));
  const shade = cures.filter({ hasText: 'flame shines through lamp shade' });
  // All that a cure does and changes stands in its row, with patches as they were and as they are.
  await expect(shade).toContainText('rays that look for lights pass lamp shade');
  await expect(shade).toContainText(/−\d+ %/);
  await expect(shade).toContainText(/[\d.]+ % in /);
  await expect(shade.locator('canvas')).toHaveCount(2);
  await shade.getByRole('button').click();
  await face('Logbook');
  await expect(page.getByRole('region', { name: 'Logbook' })).toContainText('flame shines through');
  cured = await newest();
  await pictured(cured);
  await expect(trial(cured)).toContainText(/[+−±]\d+ %/);
  await trial(cured).hover();
  await trial(cured).getByRole('button', { name: 'name, note and origin' }).click();
  await expect(page.getByTestId('about-trial')).toContainText('another scene');
  await expect(page.getByTestId('about-trial')).toContainText(/predicted [\d.]+ %/);
  await page.keyboard.press('Escape');
});

test('A and B by a line at any angle, beside each other, by turns', async () => {
  await type('Later', '0');
  await page.getByRole('button', { name: /^Log region/ }).click();
  await expect.poll(newest).toBe(cured + 1);
  await pictured(cured + 1);
  const turn = page.getByRole('slider', { name: /angle of the wipe/ });
  const clip = () => page.getByTestId('canvas-b').evaluate((c) => getComputedStyle(c.parentElement!).clipPath);
  const upright = await clip();
  await turn.press('ArrowRight');
  await expect(turn).toHaveAttribute('aria-valuenow', '5');
  expect(await clip()).not.toBe(upright);
  const ways = page.getByRole('toolbar', { name: 'A and B' });
  await ways.getByText('beside').click();
  const [a, b] = await Promise.all(['canvas-a', 'canvas-b'].map((id) => page.getByTestId(id).boundingBox()));
  expect(b!.x - a!.x).toBeGreaterThan(200);
  expect(b!.width).toBeCloseTo(a!.width, 0);
  await ways.getByText('turns').click();
  await expect.poll(clip, { timeout: 5000 }).toBe('none');
  await expect.poll(clip, { timeout: 5000 }).not.toBe('none');
  await ways.getByText('wipe').click();
  await face('A and B');
  const against = page.getByTestId('against');
  await expect(against).toContainText('FLIP', { timeout: 60000 });
  const whole = await against.locator('table').textContent();
  await page.getByRole('tab', { name: 'at the cursor' }).click();
  const box = (await page.getByTestId('picture').boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.45, box.y + box.height * 0.5);
  await expect.poll(() => against.locator('table').textContent()).not.toBe(whole);
});

test('a ladder makes a trial a step, all on one sheet with its curve, which is saved as a picture and as a report', async () => {
  await page.keyboard.press('Shift+T');
  await pickOption(page, page.getByRole('combobox', { name: 'Setting', exact: true }), 'transmission depth');
  await page.getByLabel('Setting: values').fill('0, 2, x');
  await expect(page.getByText('“x” is not a number')).toBeVisible();
  await page.getByLabel('Setting: values').fill('0, 2, 12');
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  const sheet = page.getByTestId('sheet');
  await expect(sheet.getByTestId('ladder-curve')).toBeVisible({ timeout: 240000 });
  await expect(sheet.getByTestId('knee')).toContainText(/enough|efficient|no knee/);
  await expect(sheet.locator('canvas')).toHaveCount(3);
  const download = page.waitForEvent('download');
  await sheet.getByRole('button', { name: 'Save as PNG' }).click();
  const png = readFileSync(await (await download).path());
  expect(png.subarray(1, 4).toString()).toBe('PNG');
  expect(png.readUInt32BE(16)).toBeGreaterThan(300);
  const knee = await sheet.getByTestId('knee').textContent();
  const reported = page.waitForEvent('download');
  await sheet.getByRole('button', { name: 'Report' }).click();
  const html = readFileSync(await (await reported).path(), 'utf8');
  expect(html).toContain('ladder of transmission depth');
  expect(html).toContain(`transmission depth: ${knee}.`);
  expect(html.match(/<img /g)).toHaveLength(3);
  await sheet.getByRole('button', { name: 'Close' }).click();
  await face('Logbook');
  const filter = page.getByLabel('filter the logbook');
  await filter.fill('ladder transmission');
  await expect(listed(page)).toHaveCount(3);
  await filter.fill('');
});

test('a stopped trial goes on', async () => {
  await type('Least camera samples', '4000');
  await type('Most camera samples', '4000');
  const before = await newest();
  await page.getByRole('button', { name: /^Log region/ }).click();
  await expect.poll(newest).toBe(before + 1);
  const entry = trial(before + 1);
  await expect(page.getByTestId('progress')).toContainText(/[1-9]\d* %/, { timeout: 60000 });
  await page.getByTestId('progress').getByRole('button', { name: 'Stop' }).click();
  await expect(entry).toContainText('stopped', { timeout: 60000 });
  await entry.hover();
  await entry.getByRole('button', { name: 'go on' }).click();
  await expect(page.getByTestId('progress')).toContainText('rendering', { timeout: 60000 });
  await page.getByTestId('progress').getByRole('button', { name: 'Stop' }).click();
  await expect(entry).toContainText('stopped', { timeout: 60000 });
});

test('depth is scrubbed to the knee in the lantern room, and objects say how much they need', async () => {
  await open('lantern-room');
  await takeCheck();
  await type('Test scale', '8');
  await face('Ray depth');
  await page.getByRole('button', { name: 'transmission bounces' }).click();
  await expect(page.getByTestId('live')).toContainText('64 / 64', { timeout: 240000 });
  const reading = page.getByTestId('saving');
  await expect(reading).toContainText(/\d+ is enough transmission/);
  const enough = Number(/(\d+) is enough/.exec((await reading.textContent())!)![1]);
  expect(enough).toBeGreaterThan(2);
  const curve = page.getByRole('slider', { name: 'limit of transmission' });
  await curve.focus();
  for (let i = 0; i < 17 && Number(await curve.getAttribute('aria-valuenow')) > enough; i++)
    await page.keyboard.press('ArrowLeft');
  await page.getByRole('button', { name: `Take ${enough}` }).click();
  await expect(page.getByRole('textbox', { name: 'Transmission', exact: true })).toHaveValue(String(enough));
  await page.getByRole('button', { name: 'Which objects?' }).click();
  await expect(page.getByTestId('depth-advice')).toContainText(/prisms/, { timeout: 180000 });
  await expect(page.getByTestId('time-by-limit')).toBeVisible();
});

test('the 48 frames of the quay are budgeted', async () => {
  await open('quay-dawn');
  await takeCheck();
  await type('Test scale', '8');
  await type('Most camera samples', '16');
  await face('Budget');
  await page.getByRole('button', { name: 'Measure frames' }).click();
  const time = page.getByTestId('sequence-time');
  await expect(time).toBeVisible({ timeout: 240000 });
  await expect(page.getByTestId('budget')).toContainText('48 frames');
  for (const frame of ['frame 1', 'frame 48'])
    await expect(page.getByTestId('budget').getByText(frame, { exact: true })).toBeVisible();
  await expect(page.getByTestId('affordable')).toContainText(/[\d.]+ % with \d+ samples/);
  const samples = /with (\d+) samples/.exec((await page.getByTestId('affordable').textContent())!)![1];
  await page.getByTestId('budget').getByRole('button', { name: 'Use' }).click();
  // Time goes on meanwhile: a little less can be had than was said a moment ago.
  const taken = Number(await page.getByRole('textbox', { name: 'Most camera samples' }).inputValue());
  expect(taken).toBeGreaterThan(Number(samples) * 0.9);
  expect(taken).toBeLessThanOrEqual(Number(samples) * 1.1);
});

test('a reload finds everything, and no error was written', async () => {
  await open('keepers-desk');
  await face('Logbook');
  await type('filter the logbook', String(cured).padStart(2, '0'));
  await expect(trial(cured)).toContainText(/[+−±]\d+ %/);
  await expect(page.getByRole('textbox', { name: 'Most camera samples' })).toHaveValue('4000');
  expect(faults).toEqual([]);
});
