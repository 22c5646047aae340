import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { build } from 'esbuild';
import { filteredBits } from './bits';

/** The filter runs in threads of the server; a browser that runs the same code must come to the same bits. */
test('a film denoised in the browser has the bits that it has outside of it', async ({ page }) => {
  const here = filteredBits(new Uint8Array(readFileSync('public/wasm/denoise.wasm')));
  expect(here.changed).toBeGreaterThan(0.99);
  const { outputFiles } = await build({
    entryPoints: ['e2e/bits.ts'],
    bundle: true,
    write: false,
    format: 'iife',
    globalName: 'own',
    platform: 'browser',
  });
  await page.goto('/');
  await page.addScriptTag({ content: outputFiles[0].text });
  const there = await page.evaluate(async () => {
    const wasm = new Uint8Array(await (await fetch('/wasm/denoise.wasm')).arrayBuffer());
    return (globalThis as unknown as { own: { filteredBits: typeof filteredBits } }).own.filteredBits(wasm);
  });
  expect(there).toEqual(here);
});
