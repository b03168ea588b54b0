import type { Page } from '@playwright/test';
import { addStep, newDataset, stamp, thin, trail } from './bench-steps';
import { accessible, expect, inDemo, test } from './support';

/** A result of an odd shape, line by line and without a text: what stands there is what SQL run apart gives. */

test.use({ actionTimeout: 15_000 });

const lines = (page: Page) => page.getByRole('list', { name: 'Lines' }).getByRole('listitem');
const cell = (page: Page, text: string) => page.getByRole('gridcell', { name: text, exact: true });

async function choose(page: Page, label: string, choice: string): Promise<void> {
  await page.getByRole('button', { name: new RegExp(`^${label}: `) }).click();
  await page.getByRole('option', { name: choice, exact: true }).click();
}

async function write(page: Page, label: string, text: string): Promise<void> {
  await page.getByLabel(label, { exact: true }).fill(text);
  await page.keyboard.press('Enter');
}

test('lines told of rows, one for each value, a subtotal and a share are made by hand, moved by keys, and opened to their rows', async ({
  page,
  signIn,
}) => {
  await signIn('analyst');
  await newDataset(page, 'harvests');
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Line sheet');
  await expect(page.getByText('The sheet has no line yet.')).toBeVisible();
  await page.getByRole('button', { name: 'Add a line' }).click();
  await write(page, 'Wording of line 1', 'All harvests');
  await choose(page, 'Figure of All harvests', 'sum');
  await page.getByLabel('Of what All harvests is told', { exact: true }).fill('kilos');
  await page.getByRole('option').filter({ hasText: 'kilos' }).first().click();
  const [all] = await inDemo<{ kilos: string; flowers: string; heather: string; of: string }>(`select sum(kilos) kilos,
    count(distinct floral_source) flowers, sum(kilos) filter (where floral_source = 'heather') heather,
    count(*) filter (where floral_source = 'heather') of from coop.harvests`);
  const shown = (kilos: string | undefined) => {
    const [whole = '', behind = ''] = String(kilos).split('.');
    return `${thin(Number(whole))}.${behind}`;
  };
  await expect(cell(page, shown(all?.kilos))).toBeVisible();

  await page.getByRole('button', { name: 'One line per value' }).click();
  await page.getByLabel('Field of the values').fill('floral');
  await page.getByRole('option').filter({ hasText: 'floral_source' }).first().click();
  await page.getByRole('button', { name: `Make ${all?.flowers} lines` }).click();
  await expect(lines(page)).toHaveCount(1 + Number(all?.flowers));
  await expect(cell(page, shown(all?.heather))).toBeVisible();

  await page.getByRole('button', { name: 'Add a line' }).click();
  const last = 2 + Number(all?.flowers);
  await write(page, `Wording of line ${last}`, 'Share of heather');
  await choose(page, 'Figure of Share of heather', 'calculated');
  await write(page, 'What Share of heather is calculated as', 'round(100 * heather / "All harvests", 2)');
  const [share] = await inDemo<{ of: string }>(
    "select round(100 * sum(kilos) filter (where floral_source = 'heather') / sum(kilos), 2)::text of from coop.harvests",
  );
  await expect(cell(page, String(share?.of))).toBeVisible();

  // What it is made of is called something else, and goes on meaning it.
  await write(page, 'Wording of line 1', 'Everything');
  await expect(page.getByLabel('What Share of heather is calculated as')).toHaveValue('round(100 * heather / Everything, 2)');
  await page.getByLabel(`Wording of line ${last}`, { exact: true }).press('Alt+ArrowUp');
  await expect(page.getByLabel(`Wording of line ${last - 1}`, { exact: true })).toHaveValue('Share of heather');

  await write(page, 'What Share of heather is calculated as', '"Share of heather" + 1');
  await expect(page.getByRole('alert').filter({ hasText: 'Share of heather is calculated from itself.' })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(cell(page, String(share?.of))).toBeVisible();
  await expect(trail(page).getByText('line sheet')).toBeVisible();
  await accessible(page);

  // Figures of a period, of the one before and their change are made in one go.
  await page.getByRole('button', { name: 'By period …' }).click();
  const periods = page.getByRole('dialog', { name: 'A period, the one before, and the change' });
  await expect(periods.getByRole('button', { name: 'Period: season' })).toBeVisible();
  await accessible(page);
  await periods.getByRole('button', { name: 'Make 3 figures' }).click();
  await expect(page.getByLabel('Name of figures 2')).toHaveValue('this_season');
  await expect(page.getByLabel('Name of figures 3')).toHaveValue('last_season');
  await expect(page.getByLabel('What change is calculated as')).toHaveValue('this_season - last_season');
  await expect(page.getByRole('columnheader', { name: /^this_season/ })).toBeVisible();
  // Rows asked for while an edit is on its way to be saved are not forgotten over it.
  let save = () => {};
  const asked = new Promise<void>((resolve) => (save = resolve));
  await page.route('**/api/datasets/*/edits', (route) => void asked.then(() => route.continue()));
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByLabel('Name of figures 2')).toHaveCount(0);

  const place = await page.getByLabel('Place of heather', { exact: true }).inputValue();
  const behind = page
    .getByRole('row')
    .filter({ has: cell(page, place) })
    .getByRole('button', { name: /^Rows of line/ });
  // Nor where the rows under the mouse are replaced before it is let go.
  await behind.hover();
  await page.mouse.down();
  save();
  await expect(stamp(page)).toContainText('Rows behind heather');
  await page.mouse.up();
  await expect(stamp(page)).toContainText(Number(all?.of) > 1000 ? 'first' : String(all?.of));
});

test('the demo’s sheet gives a season, the one before, the change and shares, of two tables', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: 'A season’s figures as a line sheet' }).click();
  await expect(stamp(page)).toContainText('all 12 rows');
  const [paid] = await inDemo<{ now: string; before: string }>(`select
    to_char(sum(amount) filter (where extract(year from paid_on) = 2025), 'FM999,999,990.00') now,
    to_char(sum(amount) filter (where extract(year from paid_on) = 2024), 'FM999,999,990.00') before from coop.advances`);
  await expect(cell(page, String(paid?.now))).toBeVisible();
  await page.getByRole('grid').press('Control+End');
  await page.getByRole('link', { name: 'Proof' }).click();
  await expect(page.getByRole('table')).toContainText(String(paid?.before));
});
