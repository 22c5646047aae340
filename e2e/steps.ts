import type { Browser, Locator, Page } from '@playwright/test';

/** A page of the size that the product is made for, and the errors that it writes. */
export async function openPage(browser: Browser): Promise<{ page: Page; faults: string[] }> {
  const faults: string[] = [];
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  page.on('console', (m) => m.type() === 'error' && faults.push(m.text()));
  page.on('pageerror', (e) => faults.push(e.message));
  return { page, faults };
}

/** Types into a field by its name, and leaves it. */
export async function typeInto(page: Page, name: string, value: string): Promise<void> {
  const field = page.getByRole('textbox', { name, exact: true });
  await field.fill(value);
  await field.press('Enter');
  await field.blur();
}

/** Opens a face of the drawer by its word. */
export async function openFace(page: Page, name: string): Promise<void> {
  await page.getByRole('tablist', { name: 'faces of the drawer' }).getByRole('tab', { name, exact: true }).click();
}

/** Takes one of several in a list that opens. */
export async function pickOption(page: Page, list: Locator, option: string): Promise<void> {
  await list.click();
  await page.getByRole('option', { name: option, exact: true }).click();
}

/** Trials that the logbook shows, newest first; they are there while the drawer shows the logbook. */
export const listed = (page: Page): Locator =>
  page.getByRole('region', { name: 'Logbook' }).locator('[data-testid^="trial-"]');

/** The newest trial's number. */
export async function newestTrial(page: Page): Promise<number> {
  const id = await listed(page).first().getAttribute('data-testid');
  return Number(id!.split('-')[1]);
}
