import type { Page } from '@playwright/test';
import { addStep, newDataset, stamp, thin, trail } from './bench-steps';
import { accessible, expect, inDemo, test } from './support';

/** Rows summed up: groups and figures are what SQL run apart gives. */

test.use({ actionTimeout: 15_000 });

async function pick(page: Page, label: string, part: string): Promise<void> {
  await page.getByLabel(label, { exact: true }).fill(part);
  await page.getByRole('option').filter({ hasText: part }).first().click();
}

async function choose(page: Page, label: string, choice: string): Promise<void> {
  await page.getByRole('button', { name: new RegExp(`^${label}: `) }).click();
  await page.getByRole('option', { name: choice, exact: true }).click();
}

test('harvests are summed up by grade and month, with three figures of one field', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'harvests');
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Summarise');
  await expect(page.getByText('Nothing says yet what one row stands for.')).toBeVisible();

  await page.getByRole('button', { name: 'Group by a field' }).click();
  await pick(page, 'Group 1', 'grade');
  await page.getByRole('button', { name: 'Group by a field' }).click();
  await pick(page, 'Group 2', 'picked_on');
  await choose(page, 'Group 2, by which stretch of days', 'month');
  for (const [at, figure] of ['sum', 'average', 'median'].entries()) {
    await page.getByRole('button', { name: 'Add a figure' }).click();
    await choose(page, `Figure ${at + 1}`, figure);
    await pick(page, `Of what figure ${at + 1} is`, 'kilos');
  }
  await expect(page.getByLabel('Name of figure 2')).toHaveValue('average_kilos');
  const [groups] = await inDemo<{ n: string }>(
    "select count(*) n from (select distinct grade, date_trunc('month', picked_on) from coop.harvests) g",
  );
  await expect(stamp(page)).toContainText(`all ${thin(Number(groups?.n))} rows`);
  await expect(trail(page).getByText('One row per grade and month_of_picked_on').first()).toBeVisible();
  await expect(page.getByRole('columnheader', { name: /median_kilos/ })).toBeVisible();
  await accessible(page);

  // A harvest is counted into its group.
  const [row] = await inDemo<{ id: string; grade: string; month: string }>(
    "select id, grade, to_char(picked_on, 'FMMonth YYYY') as month from coop.harvests order by id limit 1",
  );
  await page.getByRole('button', { name: 'Follow a row …' }).click();
  await page.getByLabel('Value the row is known by').fill(String(row?.id));
  await page.keyboard.press('Enter');
  await expect(trail(page).getByText(`counted into ${row?.grade}, ${row?.month}`)).toBeVisible();
});

test('districts lie within regions, and counting tells three things apart', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'districts');
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Summarise');
  for (const [at, field] of ['name', 'region_code'].entries()) {
    await page.getByRole('button', { name: 'Group by a field' }).click();
    await pick(page, `Group ${at + 1}`, field);
  }
  await expect(page.getByText('name lies within region_code.')).toBeVisible();
  await page.getByRole('button', { name: 'Group by region_code first' }).click();
  await expect(page.getByLabel('Group 1', { exact: true })).toHaveValue('region_code');
  await expect(page.getByText('name lies within region_code.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Group by region_code first' })).toHaveCount(0);

  await page.getByRole('button', { name: 'Add a figure' }).click();
  await choose(page, 'Figure 1', 'distinct count');
  await pick(page, 'Of what figure 1 is', 'region_code');
  await expect(page.getByText('12 rows, 12 with a value, 4 different values')).toBeVisible();
});

test('the price list is summarised first, and harvests do not multiply any more', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: 'Harvests priced by grade' }).click();
  const join = trail(page).getByRole('listitem').filter({ hasText: 'meets its price' });
  await join.getByText('meets its price').click();
  await expect(join).toContainText('multiplied');
  await page.getByRole('button', { name: 'Summarise that side first' }).click();
  await expect(page.getByLabel('Name of group 1')).toHaveValue('season');
  const [all] = await inDemo<{ n: string }>('select count(*) n from coop.harvests');
  await trail(page)
    .getByRole('button', { name: /^with worth/ })
    .click();
  await expect(trail(page).getByRole('listitem').filter({ hasText: 'with worth' })).toContainText(thin(Number(all?.n)));
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(join).toContainText('multiplied');
});
