import type { Browser, Page } from '@playwright/test';

/** A page of the size that the product is made for, and the errors that it writes. */
export async function openPage(browser: Browser): Promise<{ page: Page; faults: string[] }> {
  const faults: string[] = [];
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
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
