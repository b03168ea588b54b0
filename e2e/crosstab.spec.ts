import { pastedSql, thin } from './bench-steps';
import { accessible, expect, inDemo, test } from './support';

/** Columns per value, held against SQL run apart. */

test('one column per value stands beside its totals, is exchanged with what stands down, and says when it is too much', async ({
  page,
  signIn,
}) => {
  await signIn('analyst');
  await page.getByRole('link', { name: 'Yield by region, season by season' }).click();
  await page.getByRole('link', { name: 'Proof' }).click();
  await page.setViewportSize({ width: 1280, height: 2_400 });
  const lines = page.getByRole('table', { name: 'Lines of the proof' });
  await expect(lines.getByRole('columnheader', { name: '2024', exact: true })).toBeVisible();
  // Thin seasons are marked by a parameter, which the sentence names.
  await expect(page.getByLabel('Value of mark 1')).toHaveValue(':thin');
  await expect(page.getByRole('heading', { name: 'Harvests, sum of kilos marked below 1000' })).toBeVisible();
  await accessible(page);
  const apart = await inDemo<{ region: string | null; of2024: string; whole: string }>(
    `select d.region_code as region, round(sum(h.kilos) filter (where extract(year from h.picked_on) = 2024), 2)::text as of2024, round(sum(h.kilos), 2)::text as whole
     from coop.harvests h join coop.apiaries a on upper(trim(a.code)) = upper(trim(h.apiary_code)) join coop.districts d on d.code = a.district_code group by rollup (1) order by 1 nulls last`,
  );
  const spaced = (digits: string) => digits.replace(/\B(?=(\d{3})+\.)/g, '\u202f');
  const { of2024 = '', whole = '' } = apart.toSorted((a, b) => Number(b.whole) - Number(a.whole))[0] ?? {};
  const everything = lines.getByRole('row', { name: /^Everything .* rows/ });
  await expect(everything).toContainText(spaced(of2024));
  await expect(everything).toContainText(spaced(whole));
  // From a figure to its rows: those of its column, and by keys from the words of a line to any of them.
  const [counted] = await inDemo<{ n: string }>(
    `select count(*) n from coop.harvests h join coop.apiaries a on upper(trim(a.code)) = upper(trim(h.apiary_code)) where extract(year from h.picked_on) = 2024`,
  );
  await everything
    .getByRole('cell', { name: spaced(of2024) })
    .first()
    .click();
  const behind = page.getByRole('dialog', { name: 'Rows of everything' });
  await expect(behind.getByRole('status')).toHaveText(`The first 500 of ${thin(Number(counted?.n))} rows`);
  await expect(behind.getByRole('table', { name: 'Rows behind the figure' }).getByRole('row')).toHaveCount(501);
  await accessible(page);
  await page.keyboard.press('Escape');
  await lines
    .getByRole('row', { name: /without a value/ })
    .getByRole('button', { name: /without a value/ })
    .first()
    .focus();
  await page.keyboard.press('Enter');
  const lost = page.getByRole('dialog', { name: /^Rows of (.*, )?without a value$/ });
  await expect(lost.getByRole('status')).toHaveText(/rows?$/);
  await lost.getByRole('button', { name: 'Column whose rows are shown: all columns' }).click();
  await page.getByRole('option', { name: '2024', exact: true }).click();
  await expect(lost.getByRole('status')).toHaveText(/rows?$/);
  await page.keyboard.press('Escape');
  // A mark of a total stands on the figures of all columns that are over its threshold, and on no others.
  await page.getByRole('button', { name: 'Mark values' }).click();
  await page.getByRole('button', { name: /^What mark 2 stands on/ }).click();
  await page.getByRole('option', { name: 'the sum', exact: true }).click();
  await page.getByLabel('Value of mark 2').fill(of2024.replace(/\.\d+$/, ''));
  await page.keyboard.press('Enter');
  await expect(everything.getByRole('cell', { name: spaced(of2024) }).first()).toHaveClass(/font-bold/);
  const [lime] = await lines.getByRole('row', { name: /^lime/ }).all();
  await expect(lime?.getByRole('cell').nth(1) ?? everything).not.toHaveClass(/font-bold/);
  await page.getByRole('button', { name: 'Take mark 2 away' }).click();
  // Down and across change places, and come back by one undo.
  await page.getByRole('button', { name: 'Exchange down and across' }).click();
  await expect(lines.getByRole('columnheader', { name: 'chestnut', exact: true }).first()).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(lines.getByRole('columnheader', { name: '2024', exact: true })).toBeVisible();
  // Without totals behind, the last column is the last season.
  await page.getByRole('button', { name: /^Totals over the columns/ }).click();
  await page.getByRole('option', { name: 'without totals' }).click();
  await expect(lines.getByRole('columnheader', { name: 'Everything', exact: true })).toHaveCount(0);
  await expect(everything).not.toContainText(spaced(whole));
  await page.getByRole('button', { name: /^Field of level 1 across/ }).click();
  await page.getByRole('option', { name: 'Id', exact: true }).click();
  await expect(page.getByText('Id has more than 500 values to stand beside one another.')).toBeVisible();
  await page.getByRole('button', { name: 'No columns per Id' }).click();
  await expect(lines.getByRole('columnheader', { name: 'Kilos' })).toHaveCount(1);
});

test('columns stand within columns, each group of them with what it is together', async ({ page, signIn }) => {
  await signIn('analyst');
  await pastedSql(
    page,
    "select * from (values ('north', '2024', 'A', 10), ('north', '2024', 'B', 5), ('south', '2025', 'A', 7)) stands (region, season, grade, kilos)",
    4,
  );
  await page.getByRole('link', { name: 'Proof' }).click();
  await page.getByRole('button', { name: 'Group by a field' }).click();
  await page.getByRole('button', { name: 'One column per value' }).click();
  await page.getByRole('button', { name: 'Add a level across' }).click();
  const lines = page.getByRole('table', { name: 'Lines of the proof' });
  const heads = (row: number) => lines.getByRole('row').nth(row).getByRole('columnheader');
  await expect(heads(0)).toHaveText(['', 'A', 'B', 'Everything']);
  await expect(heads(1)).toHaveText(['', '2024', '2025', 'together', '2024', 'together', '']);
  await expect(lines.getByRole('row', { name: /^north/ }).getByRole('cell')).toHaveText([/^north/, '10', '', '10', '5', '5', '15']);
  await accessible(page);
  // Only where there is more than one of what is in it.
  await page.getByRole('button', { name: /^Subtotals of level 1 across/ }).click();
  await page.getByRole('option', { name: 'with subtotals of several', exact: true }).click();
  await expect(heads(1)).toHaveText(['', '2024', '2025', 'together', '2024', '']);
  // Several totals below one another: a line each, under one column per value.
  await page.getByRole('button', { name: 'Add a total' }).click();
  const cells = (row: RegExp) => lines.getByRole('row', { name: row }).getByRole('cell');
  await expect(cells(/^north/)).toHaveCount(11);
  await page.getByRole('button', { name: /^Where several totals stand/ }).click();
  await page.getByRole('option', { name: 'totals below one another' }).click();
  await expect(heads(1)).toHaveText(['', '2024', '2025', 'together', '2024', '']);
  await expect(cells(/^north, sum of Kilos/)).toHaveText([/^north, sum of Kilos 2 rows$/, '10', '', '10', '5', '15']);
  await expect(cells(/^north, average of Kilos/)).toHaveText(['north, average of Kilos', '10.00', '', '10.00', '5.00', '7.50']);
  await accessible(page);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(heads(1)).toHaveText(['', '2024', '2025', 'together', '2024', '']);
  // From a figure over columns to its rows.
  await lines
    .getByRole('row', { name: /^north/ })
    .getByRole('cell', { name: '10', exact: true })
    .nth(1)
    .click();
  const behind = page.getByRole('dialog', { name: 'Rows of north' });
  await expect(behind.getByRole('button', { name: 'Column whose rows are shown: A' })).toBeVisible();
  await expect(behind.getByRole('status')).toHaveText('1 row');
  await page.keyboard.press('Escape');
  // What is down goes across and what is across down, by one action.
  await page.getByRole('button', { name: 'Exchange down and across' }).click();
  await expect(heads(0)).toHaveText(['', 'north', 'south', 'Everything']);
  await expect(lines.getByRole('row', { name: /^Grade: A/ })).toContainText('2 rows');
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await page.getByRole('button', { name: 'No columns per Season' }).click();
  await expect(heads(0)).toHaveText(['', 'A', 'B', 'Everything']);
});

test('of hundreds of columns those in sight are made, and the groups stay in sight', async ({ page, signIn }) => {
  await signIn('analyst');
  await pastedSql(
    page,
    "select 'A' || n % 3 as band, 'column ' || lpad(n::text, 3, '0') as part, n * 1.5 as kilos from generate_series(1, 400) n",
    3,
  );
  await page.getByRole('link', { name: 'Proof' }).click();
  await page.getByRole('button', { name: 'Group by a field' }).click();
  await page.getByRole('button', { name: 'One column per value' }).click();
  const lines = page.getByRole('table', { name: 'Lines of the proof' });
  await expect(lines.getByRole('columnheader', { name: 'column 001', exact: true })).toBeVisible();
  expect(await lines.getByRole('columnheader').count()).toBeLessThan(60);
  // Widths may still be measured when it is scrolled for the first time.
  await expect(async () => {
    await lines.evaluate((box) => box.scrollTo({ left: box.scrollWidth }));
    await expect(lines.getByRole('columnheader', { name: 'Everything', exact: true })).toBeInViewport({ timeout: 500 });
  }).toPass();
  await expect(lines.getByRole('columnheader', { name: 'column 001', exact: true })).toHaveCount(0);
  const everything = lines.getByRole('row', { name: /^Everything .* rows/ });
  await expect(everything.getByText('Everything')).toBeInViewport();
  await expect(everything).toContainText(thin(120_300));
  expect(await lines.getByRole('columnheader').count()).toBeLessThan(60);
  // They would run off the paper of a browser's own printing.
  await page.getByRole('button', { name: 'Print', exact: true }).click();
  await expect(page.getByRole('link', { name: 'Open the pages of 4 lines to print them' })).toBeVisible();
  await expect(page.locator('.print-sheet')).toHaveCount(0);
});

test('groups stand in an order that is written, and back in that of their values', async ({ page, signIn }) => {
  await signIn('analyst');
  await pastedSql(
    page,
    "select * from (values ('north', 10), ('south', 20), ('east', 7), ('west', 1), ('mid', 2)) stands (region, kilos)",
    2,
  );
  await page.getByRole('link', { name: 'Proof' }).click();
  await page.getByRole('button', { name: 'Group by a field' }).click();
  const groups = page.getByRole('table', { name: 'Lines of the proof' }).getByText(/^Region: /);
  await expect(groups).toHaveText(['Region: east', 'Region: mid', 'Region: north', 'Region: south', 'Region: west']);
  const order = page.getByRole('button', { name: /^Order of level 1/ });
  await order.click();
  await page.getByRole('option', { name: 'in an order of its own …' }).click();
  const list = page.getByRole('textbox', { name: /^The order of Region.*one a line$/ });
  await expect(list).toHaveValue('east\nmid\nnorth\nsouth\nwest');
  await list.fill('south\nnorth');
  await accessible(page);
  await page.getByRole('button', { name: 'Use these 2' }).click();
  await expect(order).toHaveText('as south, north');
  await expect(groups).toHaveText(['Region: south', 'Region: north', 'Region: east', 'Region: mid', 'Region: west']);
  // The first of them, and whatever is left as one group.
  await page.getByRole('button', { name: 'More of level 1' }).click();
  const many = page.getByRole('button', { name: /^How many of level 1/ });
  await many.click();
  await page.getByRole('option', { name: 'the first 3, the rest together' }).click();
  await expect(groups).toHaveText(['Region: south', 'Region: north', 'Region: east', 'Region: the rest together']);
  const rest = page.getByRole('row', { name: /^Region: the rest together/ });
  await expect(rest).toContainText('2 rows');
  await rest.getByRole('button').click();
  const behind = page.getByRole('dialog', { name: 'Rows of the rest together' });
  await expect(behind.getByRole('row')).toHaveText([/Region/, /west/, /mid/]);
  await page.keyboard.press('Escape');
  await many.click();
  await page.getByRole('option', { name: 'all of them' }).click();
  await order.click();
  await page.getByRole('option', { name: 'upwards' }).click();
  await expect(groups).toHaveText(['Region: east', 'Region: mid', 'Region: north', 'Region: south', 'Region: west']);
});
