import { newDataset, saved, stamp, trail } from './bench-steps';
import { accessible, expect, test } from './support';

test('a session that ended is begun again at that place, and nothing typed is lost', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'districts');
  await page.getByRole('button', { name: 'Take all' }).click();
  await saved(page, 2);
  await page.getByRole('button', { name: 'Brief', exact: true }).click();
  const request = page.getByLabel('The request');
  await request.fill('Which districts have no members?');
  await page.context().clearCookies();
  await request.press('Tab');
  const again = page.getByRole('dialog', { name: 'Your session has ended' });
  await expect(again.getByLabel('Password of Barnaby Quill')).toBeFocused();
  await accessible(page);
  await page.keyboard.type('not this');
  await page.keyboard.press('Enter');
  await expect(again.getByRole('alert')).toBeVisible();
  await again.getByRole('button', { name: 'As the demo analyst' }).click();
  await expect(again).toHaveCount(0);
  await saved(page, 3);
  await expect(request).toHaveValue('Which districts have no members?');
  // Events are heard again: what runs now ends on the screen.
  await trail(page)
    .getByRole('button', { name: /^districts/ })
    .focus();
  await page.keyboard.press('Control+Enter');
  await expect(stamp(page)).toContainText('rows');
});

test('another tab goes on with the session that was begun again', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'districts');
  const other = await page.context().newPage();
  await other.goto(page.url());
  const title = other.getByLabel('Title of the dataset');
  await expect(title).toBeVisible();
  await page.context().clearCookies();
  await page.getByRole('button', { name: 'Take all' }).click();
  await page.getByRole('button', { name: 'As the demo analyst' }).click();
  await saved(page, 2);
  await title.fill('Named in the other tab');
  await title.press('Enter');
  await expect(page.getByLabel('Title of the dataset')).toHaveValue('Named in the other tab');
});

test('of two changes of the address at once neither is lost', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: 'Harvests worth delivering' }).click();
  await page
    .getByRole('region', { name: 'Sentence' })
    .getByRole('button', { name: /^min_kilos/ })
    .click();
  await page.getByLabel('min_kilos', { exact: true }).fill('6');
  await trail(page)
    .getByRole('button', { name: /^harvests/ })
    .first()
    .evaluate((step: HTMLElement) => {
      (document.activeElement as HTMLElement).blur();
      step.click();
    });
  await expect(page).toHaveURL(/step=/);
  await expect(page).toHaveURL(/v\.[^=]+=6/);
});
