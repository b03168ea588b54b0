import { newDataset, openWorthDelivering, stamp, thin } from './bench-steps';
import { accessible, expect, inDemo, test } from './support';

test.beforeEach(async ({ page, signIn, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await signIn('analyst');
  await openWorthDelivering(page);
  await page.getByRole('grid').focus();
});

test('rows are sorted over all of them, downwards and by a second field', async ({ page }) => {
  const top = await inDemo<{ kilos: string; id: string }>(
    'select kilos, id from coop.harvests where kilos >= 5 order by kilos desc, id desc limit 3',
  );
  for (let step = 0; step < 3; step++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('s');
  await expect(page.getByRole('columnheader', { name: /kilos/ })).toHaveAttribute('aria-sort', 'ascending');
  await page.keyboard.press('s');
  await expect(stamp(page)).toContainText(/all .* rows/);
  await page.keyboard.press('Home');
  await page.keyboard.press('Shift+S');
  await page
    .getByRole('columnheader', { name: /id whole number/ })
    .getByRole('button')
    .click();
  await page.getByRole('menuitem', { name: /Sort by it as well/ }).click();
  for (const [index, { kilos, id }] of top.entries()) {
    const row = page.getByRole('row').nth(index + 1);
    await expect(row.getByRole('gridcell').nth(3)).toHaveText(kilos);
    await expect(row.getByRole('gridcell').nth(0)).toHaveText(thin(Number(id)));
  }
});

test('a text is found in all rows, from place to place', async ({ page }) => {
  const [heather] = await inDemo<{ n: string }>("select count(*) n from coop.harvests where kilos >= 5 and floral_source = 'heather'");
  await page.keyboard.press('Control+f');
  await page.keyboard.type('HEATHER');
  await page.keyboard.press('Enter');
  const search = page.getByRole('search');
  await expect(search).toContainText(`${thin(Number(heather?.n))} rows`);
  const active = () => page.getByRole('grid').getAttribute('aria-activedescendant');
  const first = await active();
  await page.keyboard.press('Enter');
  await expect.poll(active).not.toBe(first);
  // Once its page is here, the place is the very cell.
  await page.keyboard.press('Enter');
  await expect.poll(active).toMatch(/^cell-\d+-5$/);
  await page.getByLabel('Text to find').fill('nowhere at all');
  await page.keyboard.press('Enter');
  await expect(search).toContainText('“nowhere at all” is nowhere in these rows.');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('grid')).toBeFocused();
});

test('the profile of a field tells its values, nulls and spread', async ({ page }) => {
  const [told] = await inDemo<{ nulls: string; distinct: string; least: string }>(
    'select (count(*) - count(moisture))::text nulls, count(distinct moisture)::text distinct, min(moisture)::text least from coop.harvests where kilos >= 5',
  );
  for (let step = 0; step < 4; step++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('p');
  const profile = page.getByRole('complementary', { name: 'Profile of moisture' });
  await expect(profile).toBeFocused();
  await expect(profile.getByRole('row', { name: /^null/ }).first()).toContainText(thin(Number(told?.nulls)));
  await expect(profile.getByRole('row', { name: /^distinct/ })).toContainText(told?.distinct ?? '');
  await expect(profile.getByRole('row', { name: /^least/ })).toContainText(told?.least ?? '');
  await expect(profile.getByText(/Spread in 20 steps/)).toBeAttached();
  await accessible(page);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('grid')).toBeFocused();
});

test('fields are frozen, widened, moved and hidden, and come back', async ({ page }) => {
  const headers = page.getByRole('grid').getByRole('columnheader');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('x');
  await expect(headers.nth(1)).toHaveCSS('position', 'sticky');
  const width = async () => (await headers.nth(1).boundingBox())?.width ?? 0;
  const before = await width();
  await page.keyboard.press('+');
  await expect.poll(width).toBeGreaterThan(before);
  await page.keyboard.press('[');
  await expect(headers.first()).toContainText('apiary_code');
  await page.keyboard.press('Home');
  await page.keyboard.press('h');
  await expect(headers.first()).toContainText('id');
  await stamp(page).getByRole('button', { name: 'Show 1 hidden field' }).click();
  await expect(headers.first()).toContainText('apiary_code');
});

test('chosen cells are copied with the names of their fields', async ({ page }) => {
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Control+c');
  await expect(page.getByText('Copied 2 rows of 2 fields with their names.')).toBeVisible();
  const cells = await page.getByRole('row').nth(1).getByRole('gridcell').allTextContents();
  const [header, first, ...more] = (await page.evaluate(() => navigator.clipboard.readText())).split('\n');
  expect(header).toBe('id\tapiary_code');
  expect(first).toBe(
    cells
      .slice(0, 2)
      .map((each) => each.replaceAll('\u202f', ''))
      .join('\t'),
  );
  expect(more).toHaveLength(1);
});

test('the very last of 1.3 million rows is reached by key, wheel and bar, sorted or not', async ({ page }) => {
  const last = 1_300_000;
  await inDemo(`create table if not exists coop.many_rows as select n from generate_series(1, ${last}) n`);
  await inDemo('alter table coop.many_rows add primary key (n)').catch(() => undefined);
  await inDemo('grant select on coop.many_rows to cendra_read');
  try {
    await newDataset(page, 'many_rows');
    await page.getByRole('button', { name: 'Take all' }).click();
    await page.getByRole('button', { name: 'Get all rows' }).click();
    await expect(stamp(page)).toContainText(`all ${thin(last)} rows`, { timeout: 60_000 });
    const grid = page.getByRole('grid');
    const lastRow = grid.locator(`[aria-rowindex="${last + 1}"]`);
    const within = async () => {
      const [box, row] = [await grid.boundingBox(), await lastRow.boundingBox()];
      return box !== null && row !== null && row.y >= box.y && row.y + row.height <= box.y + box.height + 1;
    };
    await grid.focus();
    await page.keyboard.press('Control+End');
    await expect.poll(within).toBe(true);
    await expect(lastRow.getByRole('gridcell').first()).toHaveText(/^\d/);
    // The number stands in its place whole.
    const number = lastRow.getByRole('rowheader').getByRole('button');
    expect(await number.evaluate((each) => each.scrollWidth <= each.clientWidth)).toBe(true);

    await page.keyboard.press('Control+Home');
    await expect(grid.locator('[aria-rowindex="2"]')).toBeInViewport();
    await grid.evaluate((each) => each.scrollTo({ top: each.scrollHeight }));
    await expect.poll(within).toBe(true);

    await page.keyboard.press('Control+Home');
    await grid.hover();
    await page.mouse.wheel(0, 60_000_000);
    await expect.poll(within).toBe(true);

    await page.keyboard.press('Control+Home');
    await page.keyboard.press('s');
    await page.keyboard.press('Control+End');
    await expect.poll(within).toBe(true);
    await expect(lastRow.getByRole('gridcell').first()).toHaveText(thin(last));
    await page.keyboard.press('ArrowUp');
    await expect(grid.locator(`[aria-rowindex="${last}"]`).getByRole('gridcell').first()).toHaveText(thin(last - 1));
  } finally {
    await inDemo('drop table coop.many_rows');
  }
});

test('rows that are all there, with long texts cut short, are not called the first ones', async ({ page }) => {
  await newDataset(page, 'members');
  await page.getByRole('button', { name: 'Take all' }).click();
  await expect(stamp(page)).toContainText('all 420 rows, long texts shortened');
  await page.getByRole('button', { name: 'Get whole texts' }).click();
  await expect(stamp(page)).not.toContainText('shortened');
  await expect(stamp(page)).toContainText('all 420 rows');
});
