import { expect, type Page, test } from '@playwright/test';
import postgres from 'postgres';
import { listed, openPage } from './steps';

/** The page's own housekeeping: a worker that dies, a logbook of two thousand, events that change one thing, edges that are dragged. */
test.describe.configure({ mode: 'serial' });

const NAME = 'two thousand trials';
const COUNT = 2000;
let page: Page;
let faults: string[];
let shot: string;

test.beforeAll(async ({ browser, request }) => {
  const { shots } = await (await request.get('/api/shots')).json();
  const from = await (await request.get(`/api/shots/${shots[0].id}`)).json();
  const scene = { ...from.revision.document, geometry: { ...from.revision.document.geometry } };
  const added = await request.post('/api/shots', {
    data: { name: NAME, scene, recipe: { size: { width: 192, height: 108, scale: 100 }, sampling: { cameraMax: 16 } } },
  });
  expect(added.status()).toBe(201);
  shot = (await added.json()).id;
  const sql = postgres(process.env.DATABASE_URL!, { max: 1 });
  await sql`insert into recipe (hash, document) select 'two thousand', recipe from draft where shot_id = ${shot}`;
  await sql`
    insert into trial (id, shot_id, number, revision_id, recipe_hash, camera, title, state, fraction, seconds, noise)
    select gen_random_uuid(), ${shot}, n, (select revision_id from draft where shot_id = ${shot}), 'two thousand', ${scene.cameras[0].name},
      'step ' || n, 'done', 1, jsonb_build_object('load', 1, 'trace', 10 + n % 90, 'calibrated', 8 + n % 90, 'write', 1),
      jsonb_build_object('rms', 30.0 / (1 + n % 40), 'p95', 3, 'worstCell', 9)
    from generate_series(1, ${COUNT}) n`;
  await sql.end();
  ({ page, faults } = await openPage(browser));
  await page.goto(`/?shot=${encodeURIComponent(NAME)}`);
});
test.afterAll(async ({ request }) => {
  await page.close();
  await request.patch(`/api/shots/${shot}`, { data: { removed: true } });
});

test('a logbook of two thousand comes page by page, whole, with only what is in sight in the page', async () => {
  await expect(page.getByTestId('logbook-count')).toHaveText(`${COUNT} trials`, { timeout: 60000 });
  await expect(page.getByTestId(`trial-${COUNT}`)).toBeVisible();
  expect(await listed(page).count()).toBeLessThan(20);
  // Every one of them is a dot in the map.
  await expect(page.getByTestId('noise-time').getByRole('button')).toHaveCount(COUNT);
  await page.getByLabel('filter the logbook').fill('step 17');
  await expect(page.getByTestId('logbook-count')).toContainText(/^\d+ of 2000/);
  await page.getByLabel('filter the logbook').fill('');
});

test('it scrolls from end to end, and each stretch shows its own trials', async () => {
  const scroller = listed(page).first().locator('xpath=ancestor::div[contains(@class,"overflow-x-auto")]');
  for (const [share, least, most] of [
    [0.5, 900, 1100],
    [1, 1, 12],
    [0, COUNT - 12, COUNT],
  ]) {
    await scroller.evaluate((e, s) => {
      e.scrollLeft = (e.scrollWidth - e.clientWidth) * s;
    }, share);
    await expect
      .poll(async () => Number((await listed(page).first().getAttribute('data-testid'))!.split('-')[1]))
      .toBeLessThanOrEqual(most);
    expect(Number((await listed(page).last().getAttribute('data-testid'))!.split('-')[1])).toBeGreaterThanOrEqual(
      least,
    );
    expect(await listed(page).count()).toBeLessThan(20);
  }
});

test('a change of one trial fetches that one, and nothing else', async () => {
  const asked: string[] = [];
  const note = (r: { method(): string; url(): string }) => {
    const { pathname } = new URL(r.url());
    if (pathname.startsWith('/api/') && pathname !== '/api/house')
      asked.push(`${r.method()} ${pathname.split('/').slice(2, 3)} ${pathname.split('/').at(-1)}`);
  };
  page.on('request', note);
  const entry = page.getByTestId(`trial-${COUNT}`);
  await entry.getByRole('button', { name: 'star' }).click();
  await expect(entry.getByRole('button', { name: 'unstar' })).toBeVisible();
  await page.waitForTimeout(500);
  page.off('request', note);
  expect(asked.map((a) => a.split(' ')[0])).toEqual(['PATCH', 'GET']);
  expect(asked[1]).toBe('GET trials line');
});

test('a film worker that ends is started again, and shows what the last one did', async () => {
  const live = page.getByTestId('live');
  await expect(live).toContainText(/live \d+ \/ 16/, { timeout: 60000 });
  expect(page.workers().length).toBeGreaterThan(0);
  const lit = () =>
    page.evaluate(() => {
      const canvas = document.querySelector<HTMLCanvasElement>('[data-testid="canvas-a"]')!;
      const d = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height).data;
      return d.reduce((n, v, i) => n + (i % 4 < 3 && v > 8 ? 1 : 0), 0);
    });
  await expect.poll(lit).toBeGreaterThan(1000);
  await page.evaluate(() => {
    const canvas = document.querySelector<HTMLCanvasElement>('[data-testid="canvas-a"]')!;
    canvas.getContext('2d')!.clearRect(0, 0, canvas.width, canvas.height);
  });
  for (const worker of page.workers()) await worker.evaluate(() => self.close()).catch(() => {});
  await expect(page.getByText('the film worker ended; it was started again')).toBeVisible({ timeout: 30000 });
  await expect.poll(lit, { timeout: 60000 }).toBeGreaterThan(1000);
  await expect(live).toContainText(/live \d+ \/ 16/, { timeout: 60000 });
});

test('the drawer is as high as it was dragged, after a reload too; a double click gives its height back', async () => {
  const edge = page.getByRole('separator', { name: 'height of the drawer' });
  const drawer = page.getByRole('region', { name: 'drawer' });
  const height = async () => Math.round((await drawer.boundingBox())!.height);
  expect(await height()).toBe(208);
  const box = (await edge.boundingBox())!;
  await page.mouse.move(box.x + 300, box.y + 4);
  await page.mouse.down();
  await page.mouse.move(box.x + 300, box.y - 76, { steps: 4 });
  await page.mouse.up();
  expect(await height()).toBe(288);
  await page.waitForTimeout(600);
  await page.reload();
  await expect.poll(height).toBe(288);
  await edge.focus();
  await page.keyboard.press('ArrowDown');
  expect(await height()).toBe(264);
  await edge.dblclick();
  expect(await height()).toBe(208);
});

test('what was changed is listed in words, and goes back to where one chooses', async () => {
  const field = (name: string) => page.getByRole('textbox', { name, exact: true });
  for (const value of ['2', '3', '4']) {
    await field('Light samples').fill(value);
    await field('Light samples').press('Enter');
  }
  await page.getByRole('button', { name: 'what was changed' }).click();
  await expect(page.getByRole('menuitem')).toHaveText([
    'light samples 3 → 4',
    'light samples 2 → 3',
    'light samples 1 → 2',
  ]);
  await page.getByRole('menuitem', { name: 'light samples 2 → 3' }).click();
  await expect(field('Light samples')).toHaveValue('2');
  await page.keyboard.press('Control+k');
  await page.getByPlaceholder('What to do').fill('redo');
  await expect(page.getByRole('option', { name: /Redo · light samples 2 → 3/ })).toBeVisible();
  await page.keyboard.press('Escape');
});

test('faces and parts are gone through with arrow keys', async () => {
  const tab = (name: string) => page.getByRole('tab', { name, exact: true });
  await tab('Logbook').focus();
  await page.keyboard.press('ArrowRight');
  await expect(tab('Sources and cures')).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('End');
  await expect(page.getByTestId('budget')).toBeVisible();
  await page.keyboard.press('Home');
  await expect(page.getByTestId('logbook-count')).toBeVisible();
});

test('another browser goes on where this one was', async ({ browser }) => {
  await page.getByRole('navigation', { name: 'Views' }).getByRole('button', { name: 'Balance' }).click();
  await page.waitForTimeout(2000);
  const other = await openPage(browser);
  await other.page.goto('/');
  await expect(other.page.getByTestId('shot')).toContainText(NAME, { timeout: 30000 });
  await expect(other.page.getByRole('complementary', { name: 'balance' })).toBeVisible();
  await other.page.close();
  await page.getByRole('navigation', { name: 'Views' }).getByRole('button', { name: 'Tune' }).click();
});

test('a window of its own holds the picture alone, and follows it', async () => {
  await page.keyboard.press('Control+k');
  await page.getByPlaceholder('What to do').fill('window of its own');
  const [alone] = await Promise.all([page.waitForEvent('popup'), page.keyboard.press('Enter')]);
  const canvas = alone.getByTestId('canvas-a');
  const pixels = (of: Page) =>
    of.getByTestId('canvas-a').evaluate((c: HTMLCanvasElement) => {
      const d = c.getContext('2d')!.getImageData(0, 0, c.width, c.height).data;
      return [c.width, c.height, d.reduce((sum, v, i) => (sum * 31 + v * (i % 7)) % 1e9, 0)];
    });
  await expect(canvas).toBeVisible();
  await expect(page.getByTestId('live')).toContainText(/live 16 \/ 16/, { timeout: 60000 });
  await expect.poll(async () => JSON.stringify(await pixels(alone))).toBe(JSON.stringify(await pixels(page)));
  expect(alone.workers()).toHaveLength(0);
  const width = async () => Math.round((await canvas.boundingBox())!.width);
  await page.getByTestId('picture').hover();
  await page.mouse.wheel(0, -600);
  const zoomed = async () => Math.round((await page.getByTestId('canvas-a').boundingBox())!.width);
  await expect.poll(width).toBe(await zoomed());
  await alone.close();
  await page.keyboard.press('f');
});

test('no error was written', () => {
  // Trials that were never rendered have no picture, and the browser writes that down.
  expect(faults.filter((f) => !/status of 404/.test(f))).toEqual([]);
});
