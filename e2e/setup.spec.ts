import AxeBuilder from '@axe-core/playwright';
import { expect, type Page, test } from '@playwright/test';
import { pickOption } from './steps';

/**
 * A new user's first hour: a scene of their own comes in, is lit, exposed and focused, its darkness explained; nothing
 * is lost by undo, reload or a second tab.
 */
test.describe.configure({ mode: 'serial' });

let page: Page;
const faults: string[] = [];
test.beforeAll(async ({ browser }) => {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  page = await context.newPage();
  page.on('console', (m) => m.type() === 'error' && faults.push(`${m.text()} ${m.location().url}`));
  page.on('pageerror', (e) => faults.push(e.message));
  await page.goto('/?shot=lantern-room');
});
test.afterAll(() => page.context().close());

/** A crate on a quay, 0.8 m high, as a .gltf with its .bin: no camera, light, normals or material. */
function crateFiles(): { name: string; mimeType: string; buffer: Buffer }[] {
  const corners = [0, 1].flatMap((x) => [0, 1].flatMap((y) => [0, 1].map((z) => [x - 0.5, y * 0.8, z - 0.5])));
  const floor = [
    [-4, 0, -4],
    [-4, 0, 4],
    [4, 0, 4],
    [4, 0, -4],
  ];
  const positions = new Float32Array([...corners, ...floor].flat());
  const i = (x: number, y: number, z: number) => x * 4 + y * 2 + z;
  const quad = (a: number, b: number, c: number, d: number) => [a, b, c, a, c, d];
  const crate = [
    ...quad(i(0, 1, 0), i(0, 1, 1), i(1, 1, 1), i(1, 1, 0)),
    ...quad(i(0, 0, 1), i(1, 0, 1), i(1, 1, 1), i(0, 1, 1)),
    ...quad(i(1, 0, 0), i(0, 0, 0), i(0, 1, 0), i(1, 1, 0)),
    ...quad(i(1, 0, 1), i(1, 0, 0), i(1, 1, 0), i(1, 1, 1)),
    ...quad(i(0, 0, 0), i(0, 0, 1), i(0, 1, 1), i(0, 1, 0)),
    ...quad(i(0, 0, 0), i(1, 0, 0), i(1, 0, 1), i(0, 0, 1)),
  ];
  const indices = new Uint16Array([...crate, ...quad(8, 9, 10, 11)]);
  const bin = Buffer.concat([Buffer.from(positions.buffer), Buffer.from(indices.buffer)]);
  const json = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0, 1] }],
    nodes: [
      { name: 'crate', mesh: 0 },
      { name: 'quay', mesh: 1 },
    ],
    meshes: [1, 2].map((k) => ({ primitives: [{ attributes: { POSITION: 0 }, indices: k }] })),
    accessors: [
      { bufferView: 0, componentType: 5126, count: 12, type: 'VEC3', min: [-4, 0, -4], max: [4, 0.800000011920929, 4] },
      { bufferView: 1, componentType: 5123, count: 36, type: 'SCALAR' },
      { bufferView: 1, componentType: 5123, byteOffset: 72, count: 6, type: 'SCALAR' },
    ],
    bufferViews: [
      { buffer: 0, byteLength: positions.byteLength },
      { buffer: 0, byteOffset: positions.byteLength, byteLength: indices.byteLength },
    ],
    buffers: [{ uri: 'crate.bin', byteLength: bin.length }],
  };
  return [
    { name: 'crate.gltf', mimeType: 'model/gltf+json', buffer: Buffer.from(JSON.stringify(json)) },
    { name: 'crate.bin', mimeType: 'application/octet-stream', buffer: bin },
  ];
}

/** Mean brightness of the live picture, 0..255. */
const mean = (p: Page = page) =>
  p.evaluate(() => {
    const canvas = document.querySelector<HTMLCanvasElement>('[data-testid="canvas-a"]')!;
    if (canvas.width < 2) return 0;
    const d = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height).data;
    let sum = 0;
    for (let i = 0; i < d.length; i += 4) sum += d[i] + d[i + 1] + d[i + 2];
    return (sum * 4) / (3 * d.length);
  });
const field = (name: string, p: Page = page) => p.getByRole('textbox', { name, exact: true });
async function type(name: string, value: string, p: Page = page) {
  await field(name, p).fill(value);
  await field(name, p).press('Enter');
}
const part = (name: string) => page.getByRole('tablist', { name: 'parts of Set-up' }).getByRole('tab', { name });
const view = (name: string) => page.getByRole('navigation', { name: 'Views' }).getByRole('button', { name }).click();
const row = (name: string, p: Page = page) =>
  p.getByTestId('contents').getByRole('treeitem', { name, exact: true }).first();
const lit = (p: Page = page) => expect.poll(() => mean(p), { timeout: 60000 }).toBeGreaterThan(12);

async function choose(files: ReturnType<typeof crateFiles>) {
  const chooser = page.waitForEvent('filechooser');
  await page.getByTestId('shot').click();
  await page.getByRole('menuitem', { name: 'Bring in a file' }).click();
  await (await chooser).setFiles(files);
}

test('a broken file is refused by its place, and nothing changes', async () => {
  await page.keyboard.press('1');
  await choose([{ ...crateFiles()[0], buffer: crateFiles()[0].buffer.subarray(0, 300) }, crateFiles()[1]]);
  await expect(page.getByRole('alert')).toContainText('crate.gltf');
  await expect(page.getByText('Nothing was changed.')).toBeVisible();
  await page.getByRole('button', { name: 'Close' }).click();
  await expect(page.getByTestId('shot')).toContainText('lantern-room');
});

test('a scene of one’s own comes in with what it lacks found and mended, lit at once', async () => {
  await choose(crateFiles());
  await expect(page.getByTestId('import-counts')).toContainText('2 objects');
  await expect(page.getByTestId('finding-no-light')).toBeVisible();
  await expect(page.getByTestId('finding-no-camera')).toBeVisible();
  await expect(page.getByTestId('finding-no-normals')).toBeVisible();
  await page.getByRole('button', { name: 'Open as a shot' }).click();
  await expect(page.getByTestId('shot')).toContainText('crate');
  await lit();
  await view('Tune');
  await type('Test scale', '20');
  await type('Most camera samples', '8');
  await view('Set-up');
  await expect(row('crate')).toBeVisible();
});

test('a lamp is made, moved by its gizmo, and a drag that is left leaves no trace', async () => {
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await page.getByRole('menuitem', { name: 'rectangle', exact: true }).click();
  await expect(row('rectangle light')).toBeVisible();
  await expect(page.getByTestId('chosen')).toContainText('rectangle light');
  const canvas = page.getByTestId('space');
  const x = field('Place x');
  const before = await x.inputValue();
  await expect.poll(() => canvas.getAttribute('data-gizmo')).not.toBeNull();
  const drag = async (leave: boolean) => {
    const box = (await canvas.boundingBox())!;
    const [gx, gy] = (await canvas.getAttribute('data-gizmo'))!.split(',').map(Number);
    await page.mouse.move(box.x + gx, box.y + gy);
    await page.mouse.move(box.x + gx + 1, box.y + gy + 1);
    await page.mouse.down();
    await page.mouse.move(box.x + gx + 30, box.y + gy + 8, { steps: 4 });
    if (leave) await page.keyboard.press('Escape');
    await page.mouse.up();
  };
  await drag(false);
  await expect.poll(() => x.inputValue()).not.toBe(before);
  const moved = await x.inputValue();
  await drag(true);
  await expect.poll(() => x.inputValue()).toBe(moved);
  await page.keyboard.press('Control+z');
  await expect.poll(() => x.inputValue()).toBe(before);
});

test('objects are chosen in the picture, named, copied, put into sets and given a surface', async () => {
  await page.getByTestId('canvas-a').click();
  await expect(page.getByTestId('chosen')).toContainText('crate');
  await page.getByRole('button', { name: 'copy', exact: true }).click();
  await expect(page.getByTestId('chosen')).toContainText('crate 2');
  await type('Place x', '1.4');
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Set of what is chosen' }).click();
  await expect(page.getByTestId('chosen')).toContainText('set');
  await row('crate').hover();
  await page.mouse.down();
  const set = (await row('set').boundingBox())!;
  await page.mouse.move(set.x + 60, set.y + 30, { steps: 4 });
  await page.mouse.move(set.x + 60, set.y + 12, { steps: 4 });
  await page.mouse.up();
  await expect(row('set')).toContainText('2');
  await row('crate').dblclick();
  await page.getByRole('textbox', { name: 'new name' }).fill('fish crate');
  await page.keyboard.press('Enter');
  await expect(row('fish crate')).toBeVisible();
  await row('fish crate').click();
  await pickOption(page, page.getByRole('combobox', { name: 'material', exact: true }), '+ painted wood');
  await expect(row('painted wood')).toBeVisible();
  await part('Surfaces').click();
  await expect(page.getByRole('img', { name: 'painted wood on a ball' }).first()).toBeVisible();
});

test('the sun follows the dome, and the picture follows the sun', async () => {
  await part('Sky').click();
  const dome = (await page.getByTestId('dome').boundingBox())!;
  await page.mouse.click(dome.x + 75, dome.y + 110);
  await expect(field('sun bearing')).toHaveValue('180');
  const high = Number(await field('sun height').inputValue());
  expect(high).toBeGreaterThan(35);
  await expect.poll(() => mean(), { timeout: 60000 }).toBeGreaterThan(20);
  const day = await mean();
  await page.mouse.click(dome.x + 75, dome.y + 142);
  await expect.poll(async () => Math.abs((await mean()) - day), { timeout: 60000 }).toBeGreaterThan(3);
  await page.keyboard.press('Control+z');
  await expect(field('sun height')).toHaveValue(String(high));
  // Where it is brightest is marked; the day's pictures come by themselves, and one gives its sun.
  await expect(page.getByTestId('brightest')).toContainText(/brightest \d+° high/);
  const hours = page.getByTestId('hours').getByRole('button');
  await expect(hours).toHaveCount(6, { timeout: 60000 });
  await hours.first().click();
  await expect(field('sun height')).toHaveValue('1');
  await page.keyboard.press('Control+z');
  await expect(field('sun height')).toHaveValue(String(high));
});

test('fogs add up, each by its name, and go again', async () => {
  const sky = page.getByTestId('sky-part');
  const clear = await mean();
  await sky.getByRole('button', { name: 'Add fog' }).click();
  await sky.getByRole('button', { name: 'Add another' }).click();
  await sky.getByRole('button', { name: 'Rename' }).last().click();
  await type('name of the fog', 'sea fog');
  await expect(sky).toContainText('sea fog');
  await sky.getByRole('textbox', { name: 'Density', exact: true }).last().fill('0.8');
  await sky.getByRole('textbox', { name: 'Density', exact: true }).last().press('Enter');
  await expect.poll(async () => Math.abs((await mean()) - clear), { timeout: 60000 }).toBeGreaterThan(5);
  for (let left = 2; left > 0; left--) {
    await expect(sky.getByRole('button', { name: 'Take away' })).toHaveCount(left);
    await sky.getByRole('button', { name: 'Take away' }).last().click();
  }
  await expect(sky.getByRole('button', { name: 'Add fog' })).toBeVisible();
  await expect.poll(async () => Math.abs((await mean()) - clear), { timeout: 60000 }).toBeLessThan(5);
});

test('clay is one switch', async () => {
  await part('Surfaces').click();
  const clay = page.getByRole('switch', { name: 'All surfaces in clay' });
  await page.keyboard.press('k');
  await expect(clay).toBeChecked();
  await page.getByRole('button', { name: 'Click', exact: true }).click();
  await page.getByTestId('canvas-a').click();
  await expect(page.getByRole('button', { name: 'exceptions of clay' })).toContainText('fish crate');
  await page.keyboard.press('Escape');
  await clay.click();
  await expect(clay).not.toBeChecked();
});

test('the camera meters, focuses where clicked, and has guides', async () => {
  await part('Camera').click();
  await type('Stops', '-6');
  await expect.poll(() => mean(), { timeout: 60000 }).toBeLessThan(40);
  const meter = page.getByRole('button', { name: /^Meter \+/ });
  await expect(meter).toBeEnabled({ timeout: 60000 });
  await meter.click();
  await expect.poll(async () => Number(await field('Stops').inputValue())).toBeGreaterThan(-5.5);
  await type('f-stop', '2');
  await page.getByRole('button', { name: 'Focus by clicking' }).click();
  await page.getByTestId('canvas-a').click();
  await expect.poll(async () => Number(await field('Focus').inputValue())).toBeGreaterThan(1);
  await pickOption(page, page.getByRole('combobox', { name: 'guides' }), 'thirds');
  await expect(page.getByTestId('guides')).toBeVisible();
});

test('a dark picture says why, and its fix brings the light back', async () => {
  await type('Stops', '0');
  await part('Contents').click();
  await page.getByRole('button', { name: 'rectangle light on' }).click();
  await part('Sky').click();
  await pickOption(page, page.getByRole('combobox', { name: 'surroundings' }), 'nothing');
  await expect.poll(() => mean(), { timeout: 60000 }).toBeLessThan(3);
  await part('Why?').click();
  await page.getByRole('button', { name: 'Why does it look like this?' }).click();
  const cause = page.getByTestId('cause-light-off');
  await expect(cause).toContainText('rectangle light is switched off', { timeout: 120000 });
  await expect(cause).toContainText(/\+\d+\.\d stops/);
  await cause.getByRole('button', { name: 'Switch it on' }).click();
  await expect.poll(() => mean(), { timeout: 60000 }).toBeGreaterThan(6);
  await page.getByRole('button', { name: 'Pick a pixel' }).click();
  await page.getByTestId('canvas-a').click();
  await expect(page.getByTestId('trail')).toContainText('fish crate after');
  await expect(page.getByTestId('trail')).toContainText(/light of key|leaves the scene|absorbed|roulette|limit/);
  await page.keyboard.press('Escape');
});

test('every light says what it does for the picture, and one that gives nothing says why', async () => {
  await part('Contents').click();
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await page.getByRole('menuitem', { name: 'point', exact: true }).click();
  await page.getByRole('button', { name: 'point light on' }).click();
  await part('Lights').click();
  const effects = page.getByTestId('light-effects');
  await expect(effects).toContainText('100%', { timeout: 60000 });
  await expect(effects).toContainText('Gives nothing: switched off.');
});

test('a logged trial freezes the scene, and revisions tell what changed', async () => {
  await page.keyboard.press('t');
  await expect(page.getByTestId('trial-1').locator('img')).toBeVisible({ timeout: 120000 });
  await part('Contents').click();
  await expect(page.getByTestId('scene-menu')).toContainText('revision 2');
  await page.getByTestId('scene-menu').click();
  await page.getByRole('menuitem', { name: 'Revisions' }).click();
  await expect(page.getByRole('dialog')).toContainText('f stop 0 → 2');
  await page.keyboard.press('Escape');
  const file = page.waitForEvent('download');
  await page.getByTestId('scene-menu').click();
  await page.getByRole('menuitem', { name: 'Take away as GLB' }).click();
  expect((await file).suggestedFilename()).toBe('crate.glb');
});

test('a reload keeps the draft; a second tab’s edits join this one’s', async () => {
  await page.getByTestId('canvas-a').click({ position: { x: 5, y: 5 } });
  await row('rectangle light').click();
  await type('Stops', '1.5');
  await expect(page.getByTestId('scene-menu')).not.toContainText('saving');
  await page.reload();
  await row('rectangle light').click();
  await expect(field('Stops')).toHaveValue('1.5');
  const other = await page.context().newPage();
  await other.goto(page.url());
  await other.keyboard.press('1');
  await row('rectangle light', other).click();
  await type('Stops', '2.5', other);
  await expect(field('Stops')).toHaveValue('2.5', { timeout: 30000 });
  // The other tab does not hear of what happens meanwhile, and saves onto an old version.
  await other.route('**/api/shots/*', (r) => (r.request().method() === 'GET' ? r.abort() : r.continue()));
  await row('fish crate').click();
  await type('Place z', '0.3');
  await expect(page.getByTestId('scene-menu')).not.toContainText('saving');
  await type('Width', '2', other);
  await expect(other.getByTestId('scene-menu')).not.toContainText('saving', { timeout: 30000 });
  await row('fish crate', other).click();
  await expect(field('Place z', other)).toHaveValue('0.3');
  await other.close();
  await row('rectangle light').click();
  await expect(field('Width')).toHaveValue('2', { timeout: 30000 });
});

test('a shot is renamed, taken out of the list, and put back', async () => {
  const menu = async (item: string | RegExp) => {
    await page.getByTestId('shot').click();
    await page.getByRole('menuitem', { name: item }).click();
  };
  await menu('Rename');
  await page.getByRole('textbox', { name: 'name of the shot' }).fill('lantern-room');
  await page.getByRole('button', { name: 'Rename' }).click();
  await expect(page.getByText('there is a shot lantern-room already')).toBeVisible();
  await page.getByRole('textbox', { name: 'name of the shot' }).fill('fish crate');
  await page.getByRole('button', { name: 'Rename' }).click();
  await expect(page.getByTestId('shot')).toContainText('fish crate');
  await menu('Take out of the list');
  await expect(page.getByTestId('shot')).not.toContainText('fish crate');
  await menu(/Put back fish crate/);
  await expect(page.getByTestId('shot')).toContainText('fish crate');
  await expect(page.getByTestId('contents').getByRole('treeitem', { name: /crate/ }).first()).toBeVisible();
});

test('a scene of one’s own is balanced: its lights alone, lifted, kept as a mood, written to the lights and back', async () => {
  await view('Balance');
  const groups = page.getByTestId('groups').locator('[data-testid^="group-"]');
  await expect(groups.first()).toBeVisible();
  await page.keyboard.press('Period');
  await expect(groups.first().getByRole('button', { name: /alone$/ })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('Comma');
  const gain = groups.first().getByRole('textbox');
  await gain.fill('x4');
  await gain.press('Enter');
  await expect(page.getByTestId('relit-noise')).toContainText('%');
  await page.getByRole('button', { name: 'Keep as a mood' }).click();
  await page.getByLabel('Name of the mood').fill('Bright crate');
  await page.getByRole('button', { name: 'Keep the mood' }).click();
  await page.getByRole('button', { name: 'Write to the lights' }).click();
  await expect(gain).toHaveValue('0');
  await expect(page.getByTestId('written-back')).toContainText(/patches traced anew/, { timeout: 120000 });
  await page.keyboard.press('Control+z');
  await expect(gain).toHaveValue('+2');
  await view('Set-up');
});

test('every part of Set-up can be used without seeing colours or holding a mouse', async () => {
  for (const name of ['Contents', 'Lights', 'Sky', 'Camera', 'Surfaces', 'Why?']) {
    await part(name).click();
    // What fades in or out has contrasts of no moment that anyone reads it in.
    await expect(page.locator('[data-sonner-toast]')).toHaveCount(0);
    await page.waitForTimeout(300);
    const { violations } = await new AxeBuilder({ page }).analyze();
    const serious = violations.filter((v) => v.impact === 'serious' || v.impact === 'critical');
    expect(serious.map((v) => `${name}: ${v.id} ${v.nodes.map((n) => n.target).join(' ')}`)).toEqual([]);
  }
});

test('no error reached the console', () => {
  // A name that is taken is refused by the server, and the browser writes that down.
  // So it does with a draft that the second tab has changed meanwhile, before both are joined.
  expect(faults.filter((f) => !/net::ERR_FAILED|409 .*\/api\/shots\/[^/]+(\/draft)?$/.test(f))).toEqual([]);
});
