import { chromium, type Page } from '@playwright/test';
import type { Sql } from '@/server/db/connection';

/** The live picture in Chromium: first coarse picture after a change, refreshes a second, the page's own tasks. */
export async function measurePage(url: string) {
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(url);
    const live = page.getByTestId('live');
    await live.filter({ hasText: /live \d/ }).waitFor({ timeout: 60000 });
    await page.waitForTimeout(4000);
    const coarse: number[] = [];
    for (let i = 0; i < 5; i++) {
      const before = Number(await live.getAttribute('data-changes'));
      const depth = page.getByRole('textbox', { name: 'Diffuse', exact: true });
      await depth.fill(String(2 + (i % 2)));
      await depth.press('Enter');
      await page.waitForFunction(
        (n) => Number(document.querySelector('[data-testid=live]')?.getAttribute('data-changes')) > n,
        before,
        { timeout: 20000 },
      );
      coarse.push(Number(await live.getAttribute('data-coarse-ms')));
      await page.waitForTimeout(2500);
    }
    const during = await page.evaluate(
      () =>
        new Promise<{ refreshes: number; delays: number[] }>((resolve) => {
          let refreshes = 0;
          const context = CanvasRenderingContext2D.prototype;
          const put = context.putImageData;
          context.putImageData = function (this: CanvasRenderingContext2D, ...args: unknown[]) {
            if (this.canvas.dataset.testid === 'canvas-a') refreshes++;
            return (put as (...a: unknown[]) => void).apply(this, args);
          } as typeof put;
          const delays: number[] = [];
          let last = performance.now();
          const tick = new MessageChannel();
          const end = last + 5000;
          tick.port1.onmessage = () => {
            const now = performance.now();
            delays.push(now - last);
            last = now;
            if (now > end) {
              context.putImageData = put;
              resolve({ refreshes: refreshes / 5, delays });
            } else
              setTimeout(() => {
                last = performance.now();
                tick.port2.postMessage(0);
              }, 5);
          };
          tick.port2.postMessage(0);
        }),
    );
    const setup = await measureSetup(page);
    during.delays.sort((a, b) => a - b);
    coarse.sort((a, b) => a - b);
    return {
      coarseMs: coarse[2],
      refreshesPerSecond: during.refreshes,
      setup,
      taskP95Ms: during.delays[Math.floor(during.delays.length * 0.95)],
    };
  } finally {
    await browser.close();
  }
}

/** Chooses an item in Contents, whose rows are there only while they are in sight. */
async function choose(page: Page, item: string): Promise<void> {
  const search = page.getByLabel('search contents');
  await search.fill(item);
  await page.getByTestId('contents').getByRole('treeitem', { name: item, exact: true }).click();
}

/** Milliseconds from an edit in Set-up to its first picture, the median of five edits each. */
async function measureSetup(page: Page): Promise<Record<string, number>> {
  await page.getByRole('navigation', { name: 'Views' }).getByRole('button', { name: 'Set-up' }).click();
  const rail = page.getByTestId('rail');
  const edit = async (item: string, field: string, values: [string, string]) => {
    await choose(page, item);
    const times: number[] = [];
    for (let i = 0; i < 5; i++) {
      const before = Number(await rail.getAttribute('data-changes'));
      const box = page.getByTestId('inspector').getByRole('textbox', { name: field, exact: true }).first();
      await box.fill(values[i % 2]);
      await box.press('Enter');
      await page.waitForFunction(
        (n) => Number(document.querySelector('[data-testid=rail]')?.getAttribute('data-changes')) > n,
        before,
        { timeout: 20000 },
      );
      times.push(Number(await rail.getAttribute('data-coarse-ms')));
      await page.waitForTimeout(2500);
    }
    return times.sort((a, b) => a - b)[2];
  };
  return {
    'place of a light': await edit('work lamp', 'Place y', ['2.8', '2.9']),
    'stops of a light': await edit('work lamp', 'Stops', ['0.5', '0']),
    'place of the camera': await edit('gallery', 'Place y', ['1.6', '1.62']),
    'roughness of a surface': await edit('green enamel', 'Roughness', ['0.3', '0.35']),
    ...(await measureDrag(page, 'work lamp', 'Width')),
    ...(await measureDrag(page, 'gallery', 'Focal length')),
  };
}

/** First pictures while a slider is dragged for three seconds: how many a second, and the median time to each. */
async function measureDrag(page: Page, item: string, field: string): Promise<Record<string, number>> {
  await choose(page, item);
  const thumb = page
    .getByTestId('inspector')
    .getByRole('slider', { name: `${field} slider` })
    .first();
  const box = (await thumb.boundingBox())!;
  await page.waitForTimeout(1500);
  await page.evaluate(() => {
    const rail = document.querySelector<HTMLElement>('[data-testid=rail]')!;
    const seen = new Map<string, number>();
    Object.assign(window, { seenChanges: seen });
    new MutationObserver(() => seen.set(rail.dataset.changes!, Number(rail.dataset.coarseMs))).observe(rail, {
      attributes: true,
    });
  });
  const y = box.y + box.height / 2;
  await page.mouse.move(box.x + 2, y);
  await page.mouse.down();
  const started = Date.now();
  for (let i = 0; Date.now() - started < 3000; i++) {
    await page.mouse.move(box.x + 25 * Math.sin(i / 12), y);
    await page.waitForTimeout(16);
  }
  const seconds = (Date.now() - started) / 1000;
  await page.mouse.up();
  const times = await page.evaluate(() => [...(window as unknown as { seenChanges: Map<string, number> }).seenChanges]);
  const changes = times.map(([n]) => Number(n));
  const ms = times
    .map(([, t]) => t)
    .filter((t) => t > 0)
    .sort((a, b) => a - b);
  return {
    [`dragging ${field.toLowerCase()}`]: ms[ms.length >> 1],
    [`dragging ${field.toLowerCase()}, pictures a second`]: (Math.max(...changes) - Math.min(...changes) + 1) / seconds,
  };
}

/** From asking for a trial until it is in the logbook, beside its own trace time. */
export async function measureTrial(url: string, sql: Sql) {
  const { shots } = await (await fetch(`${url}/api/shots`)).json();
  const data = await (await fetch(`${url}/api/shots/${shots[0].id}`)).json();
  const camera = data.revision.document.cameras[0].name;
  const ask = async () => {
    const before = performance.now();
    const recipe = { size: { scale: 50 }, sampling: { cameraMin: 4, cameraMax: 4 } };
    const response = await fetch(`${url}/api/trials`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ shot: data.shot.id, revision: data.revision.id, camera, recipe }),
    });
    const { trial } = await response.json();
    for (;;) {
      const [row] =
        await sql`select state, seconds, (select bytes from blob where hash = film) as bytes from trial where id = ${trial.id}`;
      if (row.state === 'done')
        return {
          totalMs: performance.now() - before,
          traceMs: row.seconds.trace * 1000,
          filmMB: Number(row.bytes) / 1e6,
        };
      if (row.state === 'failed') throw new Error('the trial failed');
      await new Promise((r) => setTimeout(r, 10));
    }
  };
  await ask();
  const { totalMs, traceMs, filmMB } = await ask();
  return { totalMs, traceMs, addedMs: totalMs - traceMs, filmMB, allowedMs: 1000 + (filmMB / 25) * 1000 };
}
