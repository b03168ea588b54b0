import type { Locator, Page } from '@playwright/test';

const MOST_STOPS = 120;

/** Goes to something with Tab alone, as somebody without a mouse does. */
export async function tabTo(page: Page, target: Locator): Promise<void> {
  await target.first().waitFor();
  for (let stop = 0; stop < MOST_STOPS; stop++) {
    if (await target.first().evaluate((element) => element === document.activeElement)) return;
    await page.keyboard.press('Tab');
  }
  throw new Error(`not reached with ${MOST_STOPS} stops: ${String(target)}`);
}

/** Goes to a button or link with Tab and presses Enter on it. */
export async function press(page: Page, target: Locator): Promise<void> {
  await tabTo(page, target);
  await page.keyboard.press('Enter');
}
