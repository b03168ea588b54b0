import type { Page } from '@playwright/test';
import { addStep, newDataset, stamp, thin, trail } from './bench-steps';
import { accessible, expect, inDemo, test } from './support';

/** Fields turned into rows, rows arranged, and groups without rows, by hand: what stands there is what SQL run apart gives. */

test.use({ actionTimeout: 15_000 });

async function choose(page: Page, label: string, choice: string | RegExp): Promise<void> {
  await page.getByRole('button', { name: new RegExp(`^${label}: `) }).click();
  await page.getByRole('option', { name: choice, exact: typeof choice === 'string' }).click();
}

async function pick(page: Page, label: string, part: string): Promise<void> {
  await page.getByLabel(label, { exact: true }).fill(part);
  await page.getByRole('option').filter({ hasText: part }).first().click();
}

test('floral source and grade become rows; a type conflict is told with what each way out loses', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'harvests');
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Unpivot');
  await expect(page.getByText('No field becomes a row yet.')).toBeVisible();
  await pick(page, 'Field that becomes a row', 'floral_source');
  await pick(page, 'Field that becomes a row', 'grade');
  const [all] = await inDemo<{ n: string }>('select 2 * count(*) n from coop.harvests');
  await expect(stamp(page)).toContainText(`of ${thin(Number(all?.n))} rows`);
  await expect(trail(page).getByText('stands in 2 rows; sums over all rows count it twice')).toBeVisible();

  await pick(page, 'Field that becomes a row', 'moisture');
  const [lost] = await inDemo<{ n: string }>('select count(floral_source) + count(grade) n from coop.harvests');
  await expect(page.getByText(/value is text and decimal\(4,1\) in different rows/)).toBeVisible();
  await expect(
    page.getByRole('button', { name: `Take all of them as decimal(4,1), ${thin(Number(lost?.n))} values are lost` }),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Take all of them as text, nothing is lost' }).click();
  await expect(page.getByText(/in different rows/)).toHaveCount(0);
  await choose(page, 'Rows without a value', 'are left out');
  const [filled] = await inDemo<{ n: string }>('select count(floral_source) + count(grade) + count(moisture) n from coop.harvests');
  await expect(stamp(page)).toContainText(`of ${thin(Number(filled?.n))} rows`);
  await accessible(page);
});

test('the way rows are looked at becomes a step, whose order the proof and the rows keep', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'apiaries');
  await page.getByRole('button', { name: 'Take all' }).click();
  await expect(stamp(page)).toContainText('all 310 rows');
  const grid = page.getByRole('grid');
  const act = async (field: RegExp, what: string | RegExp) => {
    await page.getByRole('columnheader', { name: field }).getByRole('button').click();
    await page.getByRole('menuitem', { name: what }).click();
  };
  await act(/^altitude_m/, /^Sort upwards/);
  await act(/^name/, /^Hide/);
  await page.getByRole('button', { name: 'Make it a step' }).click();
  const step = page.getByRole('region', { name: /^Step by altitude_m/ });
  await expect(step).toBeVisible();
  await expect(step.getByRole('button', { name: 'name is: for use only' })).toBeVisible();
  const [low] = await inDemo<{ m: string }>('select min(altitude_m) m from coop.apiaries');
  await expect(grid.getByRole('row').nth(1)).toContainText(String(low?.m));
  await expect(page.getByRole('columnheader', { name: /^name/ })).toHaveCount(0);
  await choose(page, 'Direction 1', 'descending');
  const [high] = await inDemo<{ m: string }>('select max(altitude_m) m from coop.apiaries');
  await expect(grid.getByRole('row').nth(1)).toContainText(thin(Number(high?.m)));
  await page.getByRole('link', { name: 'Proof' }).click();
  await expect(page.getByRole('table').getByRole('row').nth(1)).toContainText(String(high?.m));
});

test('from a group to its rows and back, and months without a harvest', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: 'Yield per apiary and month' }).click();
  await trail(page)
    .getByRole('button', { name: /^one row per apiary and month/ })
    .click();
  await expect(page.getByRole('button', { name: 'Where month comes from: every one within :picked' })).toBeVisible();
  const [groups] = await inDemo<{ n: string }>(`
    select 6 * count(distinct a.name) n from coop.harvests h join coop.apiaries a on lower(rtrim(h.apiary_code)) = lower(a.code)
    where picked_on between '2025-04-01' and '2025-09-30'`);
  await expect(stamp(page)).toContainText(`${thin(Number(groups?.n))} rows`);
  await page
    .getByRole('grid')
    .getByRole('row')
    .filter({ hasText: /\.\d{6}[1-9]$/ })
    .first()
    .getByRole('button', { name: /^Rows of group/ })
    .click();
  await expect(stamp(page)).toContainText('Rows of apiary');
  await expect(page.getByRole('columnheader', { name: /^picked_on/ })).toBeVisible();
  await page.getByRole('button', { name: 'Back to all rows' }).click();
  await expect(stamp(page)).toContainText(`${thin(Number(groups?.n))} rows`);
  await choose(page, 'Groups without rows', 'only where there are rows');
  const [found] = await inDemo<{ n: string }>(`
    select count(*) n from (select distinct a.name, date_trunc('month', picked_on) from coop.harvests h
    join coop.apiaries a on lower(rtrim(h.apiary_code)) = lower(a.code) where picked_on between '2025-04-01' and '2025-09-30') g`);
  await expect(stamp(page)).toContainText(`${thin(Number(found?.n))} rows`);
});

test('the best apiaries of each region, how many is asked', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: 'Best apiaries of each region' }).click();
  await expect(stamp(page)).toContainText('all 40 rows');
  await choose(page, 'Ties', 'with ties');
  await expect(trail(page).getByRole('button', { name: /with ties.* arrange$/ })).toBeVisible();
});

test('criteria of one input are written for the others too, with parameters of their own', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: 'Deliveries and advances in one list' }).click();
  await trail(page)
    .getByRole('button', { name: /^deliveries/ })
    .first()
    .click();
  await addStep(page, 'Criteria');
  await page.getByLabel('Field', { exact: true }).fill("delivered_on >= date '2024-01-01'");
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'with the same parameters' }).click();
  await expect(page.getByText('Written for every other input.')).toBeVisible();
  await expect(trail(page).getByRole('button', { name: /^paid_on >= date '2024-01-01'/ })).toBeVisible();
  // The union counts what both give now.
  await trail(page)
    .getByRole('button', { name: /on top of one another.* union$/ })
    .click();
  const [left] = await inDemo<{ n: string }>(`
    select (select count(*) from coop.deliveries where delivered_on >= '2024-01-01') + (select count(*) from coop.advances where paid_on >= '2024-01-01') n`);
  await expect(trail(page).getByRole('listitem').filter({ hasText: 'on top of one another' })).toContainText(thin(Number(left?.n)));
});

test('a summary, its groups and an order are made without a mouse', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'harvests');
  await page.getByRole('button', { name: 'Take all' }).focus();
  await page.keyboard.press('Enter');
  await expect(stamp(page)).toContainText('of 12 430 rows');
  const add = async (word: 'Summarise' | 'Arrange') => {
    await trail(page).locator('[data-step][aria-current]').focus();
    await page.keyboard.press('/');
    await expect(page.getByRole('menuitem', { name: word })).toBeVisible();
    await page.keyboard.type(word.toLowerCase().slice(0, 5));
    await expect(page.getByRole('menuitem', { name: word })).toHaveAttribute('data-focus');
    await page.keyboard.press('Enter');
  };
  await add('Summarise');
  await page.getByRole('button', { name: 'Group by a field' }).focus();
  await page.keyboard.press('Enter');
  await page.keyboard.type('grade');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Add a figure' }).focus();
  await page.keyboard.press('Enter');
  await expect(stamp(page)).toContainText('all 3 rows');
  await add('Arrange');
  await page.getByLabel('Sort by', { exact: true }).focus();
  await page.keyboard.type('rows');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Direction 1: ascending' })).toBeVisible();
  const [least] = await inDemo<{ grade: string }>('select grade from coop.harvests group by grade order by count(*), grade limit 1');
  await expect(page.getByRole('grid').getByRole('row').nth(1)).toContainText(String(least?.grade));
  // From the first group to its rows.
  await trail(page).locator('[data-step][aria-current]').focus();
  await page.keyboard.press('ArrowUp');
  // Both steps have three rows: those of the summary have to be there before one of them is asked about.
  await expect(stamp(page)).toContainText('After one row per grade');
  await expect(page.getByRole('grid').getByRole('row').nth(3)).toContainText(/[ABC]/);
  await page.getByRole('grid').focus();
  await page.keyboard.press('g');
  await expect(stamp(page)).toContainText('Rows of grade');
});
