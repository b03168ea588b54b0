import type { Page } from '@playwright/test';
import { stamp, trail } from './bench-steps';
import { accessible, expect, test } from './support';

const written = (page: Page) => page.getByRole('textbox', { name: 'Words of the text' });
const field = (page: Page) => page.getByRole('textbox', { name: 'SQL text' });

async function openShelf(page: Page): Promise<void> {
  await page.getByRole('navigation', { name: 'Main' }).getByRole('link', { name: 'Kept texts' }).click();
  await expect(page.getByRole('heading', { name: 'Kept texts' })).toBeVisible();
}

const file = (name: string, text: string | Buffer) => ({ name, mimeType: 'application/sql', buffer: Buffer.from(text) });

test('files are taken many at once, each told what became of it, and found by their words', async ({ page, signIn }) => {
  await signIn('analyst');
  await openShelf(page);
  await accessible(page);
  await page
    .getByLabel('SQL files')
    .setInputFiles([
      file('queens.sql', 'select queen_year, count(*) as hives\nfrom coop.hives\ngroup by queen_year\n'),
      file('buyers.sql', 'select distinct buyer_code from coop.deliveries'),
      file('letters.sql', Buffer.from([0x73, 0xe9, 0x6c])),
      file('nothing.sql', '  \n'),
    ]);
  await expect(page.getByRole('status').filter({ hasText: '2 of 4 files taken.' })).toBeVisible();
  await expect(page.getByText('letters.sql: it is not written in UTF-8.')).toBeVisible();
  await expect(page.getByText('nothing.sql: there is nothing in it.')).toBeVisible();
  await page.getByRole('textbox', { name: 'Find a text' }).fill('queen_year');
  await expect(page.getByRole('row')).toHaveCount(2);
  await page.getByRole('link', { name: 'queens' }).click();
  await expect(written(page)).toContainText('group by queen_year');
  for (const name of ['queens', 'buyers']) {
    await openShelf(page);
    await page.getByRole('link', { name }).click();
    await page.getByRole('button', { name: 'Take it off the shelf' }).click();
    await page.getByRole('button', { name: 'Take it off', exact: true }).click();
    await expect(page.getByRole('link', { name })).toHaveCount(0);
  }
});

test('a text that changed on the shelf is offered with the difference where it was taken', async ({ page, signIn }) => {
  await signIn('analyst');
  await openShelf(page);
  await page.getByRole('link', { name: 'Kilos per region and season' }).click();
  await page.getByRole('button', { name: 'Start a dataset from it' }).click();
  await expect(trail(page)).toBeVisible();
  await expect(stamp(page)).toContainText('all 20 rows');
  const bench = page.url();

  await openShelf(page);
  await page.getByRole('link', { name: 'Kilos per region and season' }).click();
  await expect(page.getByRole('list', { name: 'Where it is used' })).toContainText('Kilos per region and season, as it is');
  await written(page).click();
  await page.keyboard.press('Control+End');
  await page.keyboard.type('\nlimit 3');
  await expect(page.getByRole('list', { name: 'What differs' })).toContainText('limit 3');
  await page.getByRole('button', { name: 'Make it version 2' }).click();
  await expect(page.getByRole('heading', { name: 'Version 2' })).toBeVisible();
  await expect(page.getByRole('list', { name: 'Where it is used' })).toContainText('as version 1');
  await accessible(page);

  await page.goto(bench);
  const offered = page.getByRole('region', { name: 'Changed on the shelf' });
  await expect(offered).toContainText('Kilos per region and season is at version 2 on the shelf; this text was taken from version 1.');
  await offered.getByRole('button', { name: 'What differs' }).click();
  await expect(offered.getByRole('list')).toContainText('limit 3');
  await accessible(page);
  await offered.getByRole('button', { name: 'Take version 2' }).click();
  await expect(offered).toBeHidden();
  await expect(field(page)).toContainText('limit 3');
  await expect(stamp(page)).toContainText('all 3 rows');
});

test('a text of a step is put on the shelf and taken by another', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: 'Kilos of a season, one day short' }).click();
  await page.getByRole('button', { name: 'Shelf …' }).click();
  await page.getByRole('menuitem', { name: 'Put this text there …' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Kilos of a season');
  await page.getByLabel(/^Note/).fill('one day short');
  await page.getByRole('textbox', { name: 'Add a tag' }).fill('season');
  await page.keyboard.press('Enter');
  await accessible(page);
  await page.getByRole('button', { name: 'Put it there' }).click();
  await page.getByRole('button', { name: 'Shelf …' }).click();
  await expect(page.getByRole('menu')).toContainText('From Kilos of a season, version 1');
  await page.keyboard.press('Escape');

  await page.getByRole('link', { name: 'Datasets' }).click();
  await page.getByRole('button', { name: 'Paste SQL' }).click();
  await page.getByRole('textbox', { name: 'SQL text' }).fill('select 1 as one');
  await page.getByRole('button', { name: 'Begin' }).click();
  await page.getByRole('button', { name: 'Shelf …' }).click();
  await page.getByRole('menuitem', { name: 'Take a kept text …' }).click();
  await page.getByRole('textbox', { name: 'Find a text' }).fill('season short');
  await page.getByRole('list', { name: 'Kept texts for this source' }).getByRole('button', { name: 'Kilos of a season' }).click();
  await expect(page.getByLabel('Its text')).toContainText('make_date(:season, 4, 1)');
  await page.getByRole('button', { name: 'Take it', exact: true }).click();
  await expect(field(page)).toContainText('make_date(:season, 4, 1)');
  await expect(page.getByText('It gives 3 fields.')).toBeVisible();
  await openShelf(page);
  await page.getByRole('link', { name: 'Kilos of a season' }).click();
  await expect(page.getByRole('list', { name: 'Where it is used' })).toContainText('Kilos of a season, one day short');
});

test('who lacks the source reads names and notes only', async ({ page, cendra }) => {
  await page.goto(cendra);
  await page.getByLabel('Name').fill('analyst2');
  await page.getByLabel('Password').fill('thistle-analyst2');
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await openShelf(page);
  const line = page.getByRole('row').filter({ hasText: 'Settlement of members, new' });
  await expect(line).toContainText('You lack its source; a steward gives sources.');
  await expect(line.getByRole('link')).toHaveCount(0);
});
