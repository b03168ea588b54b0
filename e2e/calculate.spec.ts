import type { Locator, Page } from '@playwright/test';
import { addStep, newDataset, stamp, thin, trail } from './bench-steps';
import { accessible, expect, inDemo, test } from './support';

const values = (page: Page) => page.getByRole('region', { name: 'Values' });
const trace = (page: Page) => page.getByRole('region', { name: 'Trace' });
const expression = (page: Page, name: string) => page.getByRole('textbox', { name: `Expression of ${name}` });
const fieldList = (page: Page) => page.getByRole('list', { name: 'Calculated fields' });

/** Opens one of the demo's datasets on its calculate step. */
async function openDemo(page: Page, title: string): Promise<void> {
  await page.getByRole('link', { name: title }).click();
  await expect(fieldList(page)).toBeVisible();
  await expect(stamp(page).getByText(/as of /)).toBeVisible();
}

async function choose(page: Page, field: string): Promise<void> {
  await fieldList(page).getByRole('button', { name: field, exact: false }).first().click();
  await expect(expression(page, field)).toBeVisible();
}

test('a calculated field is written, completed, mended, traced and undone by keyboard only', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'inspections');
  await page.getByRole('button', { name: 'Take all' }).click();
  await expect(stamp(page)).toContainText(`the first ${thin(1000)} of ${thin(24_000)} rows`);

  // From here on no mouse: the trail has the focus, / offers the steps.
  await trail(page)
    .getByRole('button', { name: /^inspections/ })
    .focus();
  await page.keyboard.press('/');
  await expect(page.getByRole('menuitem', { name: 'Calculate' })).toBeVisible();
  await page.keyboard.type('calc');
  await page.keyboard.press('Enter');
  const name = page.getByLabel('Name of the calculated field');
  await expect(name).toBeFocused();
  await page.keyboard.type('varroa');
  await page.keyboard.press('Enter');
  await expect(expression(page, 'varroa')).toBeFocused();

  // Completion offers the field and how functions are written.
  await page.keyboard.type('cast(varr');
  await expect(page.getByRole('option', { name: 'varroa_count' })).toBeVisible();
  await page.keyboard.press('Enter');
  await page.keyboard.type(' as integr)');
  await expect(page.getByText('a type: text, integer, decimal(12,2)')).toBeVisible();
  for (let left = 0; left < 2; left++) await page.keyboard.press('ArrowLeft');
  await page.keyboard.type('e');
  await expect(page.getByText('is a whole number')).toBeVisible();

  // The counts that are no numbers have failed; the step says in how many rows.
  const wrong = Number((await inDemo<{ n: string }>(`select count(*) n from coop.inspections where varroa_count = 'n/a'`))[0]?.n);
  await expect(fieldList(page)).toContainText(`failed in ${wrong} rows`);
  await expect(trail(page)).toContainText(`${wrong} failed`);
  await expect(values(page)).toContainText('! failed');
  await fieldList(page)
    .getByRole('button', { name: `failed in ${wrong} rows` })
    .focus();
  await page.keyboard.press('Enter');
  await expect(stamp(page)).toContainText(`Where calculating failed, with varroa: all ${wrong} rows`);
  const back = stamp(page).getByRole('button', { name: 'Back to all rows' });
  await back.focus();
  await expect(back).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(stamp(page)).toContainText(`of ${thin(24_000)} rows`);
  await expression(page, 'varroa').focus();

  // A name that is nearly right is mended by its message.
  await page.keyboard.press('Control+a');
  await page.keyboard.type('varoa_count || remark');
  await page.keyboard.press('Escape');
  await expect(page.getByText('There is no field varoa_count here.')).toBeVisible();
  await page.keyboard.press('Alt+Enter');
  await expect(expression(page, 'varroa')).toHaveText('varroa_count || remark');
  await expect(page.getByText('is a text')).toBeVisible();
  await page.keyboard.press('Control+Enter');

  // Tab leaves the expression for the values; Enter opens how one came about.
  await expect(values(page).getByRole('button').first()).toBeVisible();
  await values(page).getByRole('button').first().focus();
  await page.keyboard.press('Enter');
  await expect(trace(page)).toContainText('How this varroa came about');
  await expect(trace(page)).toContainText('varroa_count');
  await expect(page.getByRole('button', { name: 'All values' })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(values(page)).toBeVisible();

  await page.getByRole('button', { name: 'Undo' }).focus();
  await page.keyboard.press('Enter');
  await expect(expression(page, 'varroa')).toHaveText('cast(varroa_count as integer)');
  await accessible(page);
});

test('a function is found by what others call it, and written with places to fill in', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'harvests');
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Calculate');
  await page.getByLabel('Name of the calculated field').fill('size');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Functions …' }).click();
  const list = page.getByRole('region', { name: 'What can be written' });
  const search = list.getByLabel('Find a function');
  await search.fill('year');
  const [first] = await list.getByRole('listitem').all();
  await expect(first as Locator).toContainText('extract(year from picked_on) gives 2024');
  await search.fill('if');
  await expect(list.getByRole('listitem').first()).toContainText('Elsewhere: if');
  await accessible(page);
  await search.press('Enter');
  await page.keyboard.type('kilos > 20');
  await page.keyboard.press('Tab');
  await page.keyboard.type("'large'");
  await page.keyboard.press('Tab');
  await page.keyboard.type("'small'");
  await expect(expression(page, 'size')).toHaveText("case when kilos > 20 then 'large' else 'small' end");
  await expect(page.getByText('is a text')).toBeVisible();
  await search.fill('last day');
  await page.keyboard.press('ArrowDown');
  await expect(list.getByRole('listitem').first().getByRole('button')).toBeFocused();
  await expect(list.getByRole('listitem').first()).toContainText('end_of_');
  await page.keyboard.press('Escape');
  await expect(values(page)).toBeVisible();
});

test('the rows in which a field failed are one click away, and back', async ({ page, signIn }) => {
  await signIn('analyst');
  await openDemo(page, 'Inspections with readable counts');
  const zero = Number((await inDemo<{ n: string }>(`select count(*) n from coop.inspections where trim(varroa_count) = '0'`))[0]?.n);
  await fieldList(page)
    .getByRole('button', { name: `failed in ${thin(zero)} rows` })
    .click();
  await expect(stamp(page)).toContainText(`Where calculating failed, counts as numbers: all ${thin(zero)} rows`);
  await stamp(page).getByRole('button', { name: 'Back to all rows' }).click();
  await expect(stamp(page)).toContainText(`of ${thin(24_000)} rows`);
});

test('a part that is pointed at shows its own values, nulls and extremes included', async ({ page, signIn }) => {
  await signIn('analyst');
  await openDemo(page, 'Harvests, shares and running totals');
  await choose(page, 'dry_kilos');
  await expect(values(page).getByRole('columnheader', { name: 'moisture' })).toBeVisible();
  const [most] = await inDemo<{ kilos: string }>('select max(kilos)::text kilos from coop.harvests');
  await expect(values(page)).toContainText(most?.kilos ?? '');
  await expect(values(page).getByText('null').first()).toBeAttached();
  await expression(page, 'dry_kilos').click();
  await page.keyboard.press('Control+Home');
  for (let right = 0; right < 19; right++) await page.keyboard.press('ArrowRight');
  await expect(values(page).getByRole('columnheader', { name: '100 - moisture' })).toBeVisible();
});

test('values over other rows come from the whole partition, and the trace shows its rows', async ({ page, signIn }) => {
  await signIn('analyst');
  await openDemo(page, 'Harvests, shares and running totals');
  await choose(page, 'share');
  await expect(values(page).getByRole('row').nth(2)).toBeVisible();
  await values(page).getByRole('button').first().click();
  const line = trace(page).getByRole('listitem').filter({ hasText: 'sum(kilos)' }).last();
  const season = (
    await trace(page)
      .getByRole('listitem')
      .filter({ hasText: /^season/ })
      .last()
      .innerText()
  ).replace(/\D/g, '');
  const [whole] = await inDemo<{ kilos: string; n: string }>(
    `select sum(kilos)::text kilos, count(*) n from coop.harvests where extract(year from picked_on) = ${Number(season)}`,
  );
  await expect(line).toContainText(whole?.kilos ?? '');
  await line.getByRole('button').first().click();
  await expect(trace(page)).toContainText(`Rows that share ${season}.`);
  await expect(trace(page).getByRole('grid')).toContainText('kilos');
  await expect(line.getByRole('button').first()).toHaveText(`from rows 1 to ${thin(Number(whole?.n))}`);
  await accessible(page);
});

test('what can be said in words is written as an expression', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'advances');
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Calculate');
  await page.getByLabel('Name of the calculated field').fill('so_far');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Say it in words …' }).click();
  await page.getByRole('button', { name: /^What is calculated/ }).click();
  await page.getByRole('option', { name: 'running total' }).click();
  await page.getByRole('button', { name: /^Of which field/ }).click();
  await page.getByRole('option', { name: 'amount' }).click();
  await page.getByRole('button', { name: /^Over which rows/ }).click();
  await page.getByRole('option', { name: 'member_id' }).click();
  await page.getByRole('button', { name: 'Write it' }).click();
  await expect(expression(page, 'so_far')).toHaveText('sum(amount) over (partition by member_id order by paid_on, id)');
  await expect(page.getByRole('grid').getByRole('columnheader', { name: /so_far/ })).toBeAttached();
  // A new week's begin is a setting of the dataset.
  await page.getByRole('button', { name: /^First day of the week/ }).click();
  await page.getByRole('option', { name: 'Sunday' }).click();
  await page.getByRole('button', { name: 'History' }).click();
  await expect(page.getByText('made weeks begin on Sunday')).toBeVisible();
});

test('instants are shown and counted by the clocks of the zone that is chosen', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'harvests');
  for (const each of ['id', 'weighed_at']) await page.getByRole('checkbox', { name: `Take ${each}` }).click();
  await expect(page.getByRole('gridcell', { name: /\+00$/ }).first()).toBeVisible();
  await page.getByRole('combobox', { name: 'Time zone' }).click();
  await page.keyboard.type('kirit');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('listbox')).toContainText('No time zone is called “kirit”. It is a part of:');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('columnheader', { name: /weighed_at instant in Pacific\/Kiritimati/ })).toBeAttached();
  await expect(page.getByRole('gridcell', { name: /\+14$/ }).first()).toBeVisible();
  await page.getByRole('button', { name: 'History' }).click();
  await expect(page.getByText('made instants read in Pacific/Kiritimati')).toBeVisible();
});

test('circular fields and a field removed upstream are told in place', async ({ page, signIn }) => {
  await signIn('analyst');
  await openDemo(page, 'Members and how they are addressed');
  await choose(page, 'full_name');
  await expression(page, 'full_name').click();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('sorted_by || full_name');
  await expect(page.getByText('full_name is calculated from itself.').first()).toBeVisible();
  await expect(page.getByText('sorted_by is calculated further down.').first()).toBeVisible();
  await page.getByRole('button', { name: 'Findings' }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(expression(page, 'full_name')).toHaveText("first_name || ' ' || last_name");
});
