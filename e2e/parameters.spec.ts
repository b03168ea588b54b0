import type { Page } from '@playwright/test';
import { addStep, newDataset, paste, stamp, thin } from './bench-steps';
import { accessible, expect, inDemo, test } from './support';

const sentence = (page: Page) => page.getByRole('region', { name: 'Sentence' });
const slot = (page: Page, name: string) => sentence(page).getByRole('button', { name: new RegExp(`^${name}:`) });
const countOf = async (sql: string) => Number((await inDemo<{ n: string }>(`select count(*) n from ${sql}`))[0]?.n);
const left = (page: Page, rows: number) => expect(page.getByText(`${thin(rows)} left`)).toBeVisible();

async function openDemo(page: Page, title: string): Promise<void> {
  await page.getByRole('link', { name: title }).click();
  await expect(stamp(page).getByText(/as of /)).toBeVisible();
}

/** A choice typed by part of its label, then moved to and taken. */
async function choose(page: Page, name: string, part: string, offered: string | RegExp): Promise<void> {
  await page.getByLabel(name, { exact: true }).pressSequentially(part);
  await expect(page.getByRole('option', { name: offered }).filter({ hasNotText: 'as typed' }).first()).toBeVisible();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
}

test('parameters of every shape: one, several, a range, yes or no, and choices narrowed by another', async ({ page, signIn }) => {
  await signIn('analyst');
  await openDemo(page, 'Apiaries of a district');
  const [first, other] = await inDemo<{ code: string; name: string }>(
    "select code, name from coop.districts where region_code = 'SM' order by code",
  );
  await slot(page, 'region').click();
  await choose(page, 'region', 'Salt', 'Saltmarsh');
  await slot(page, 'district').click();
  await expect(page.getByRole('option')).toHaveCount(3);
  await accessible(page);
  await choose(page, 'district', first?.name ?? '', new RegExp(first?.name ?? ''));
  await choose(page, 'district', other?.name ?? '', new RegExp(other?.name ?? ''));
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  const inDistricts = `coop.apiaries where district_code in ('${first?.code}', '${other?.code}')`;
  await left(page, await countOf(inDistricts));

  await slot(page, 'altitude').click();
  await page.getByLabel('altitude from', { exact: true }).fill('600');
  await page.getByLabel('altitude until', { exact: true }).fill('200');
  await page.keyboard.press('Enter');
  await expect(sentence(page)).toContainText(':altitude begins with 600, after its end 200.');
  await slot(page, 'altitude').click();
  await page.getByLabel('altitude from', { exact: true }).fill('100');
  await page.getByLabel('altitude until', { exact: true }).fill('3001');
  await page.keyboard.press('Enter');
  await expect(sentence(page)).toContainText(':altitude is above 3000.');
  await slot(page, 'altitude').click();
  await page.getByLabel('altitude until', { exact: true }).fill('');
  await page.keyboard.press('Enter');
  await left(page, await countOf(`${inDistricts} and altitude_m >= 100`));
  await slot(page, 'is_shared').click();
  await page.getByRole('button', { name: 'yes', exact: true }).click();
  await left(page, await countOf(`${inDistricts} and altitude_m >= 100 and shared`));

  // The parent changes: the districts chosen are no choices any more, which is said and loses nothing.
  await slot(page, 'region').click();
  await choose(page, 'region', 'Upper', 'Upper Tarn');
  await expect(sentence(page)).toContainText(`“${first?.code}” is not among the choices now.`);
  await expect(sentence(page)).toContainText(`“${other?.code}” is not among the choices now.`);
});

test('a relative stretch is said in words and told with what it comes to', async ({ page, signIn }) => {
  await signIn('analyst');
  await openDemo(page, 'Apiaries of a district');
  await slot(page, 'opened').click();
  await page.getByLabel('This, last or next').selectOption('this');
  await page.getByLabel('Unit of time').selectOption('season');
  await expect(page.getByText(/Today that is \d{4}-04-01 until \d{4}-09-30\./)).toBeVisible();
  await page.getByRole('button', { name: 'Use this season' }).click();
  await expect(slot(page, 'opened')).toHaveText(':this season');
});

test('a range of days on date-times ends at midnight', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'scale_readings');
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Criteria');
  await page.getByLabel('Field', { exact: true }).fill('read_at');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: /^Operator/ }).click();
  await page.getByRole('option', { name: 'within', exact: true }).click();
  await page.getByLabel('read_at, from', { exact: true }).fill(':days');
  await page.keyboard.press('Enter');
  await slot(page, 'days').click();
  await page.getByLabel('days from', { exact: true }).fill('2024-01-02');
  await page.getByLabel('days until', { exact: true }).fill('2024-01-03');
  await page.keyboard.press('Enter');
  await left(page, await countOf("coop.scale_readings where read_at >= '2024-01-02 00:00+00' and read_at < '2024-01-04 00:00+00'"));
});

test('a comma list in a one-value slot is questioned, and the parameter can take several', async ({ page, signIn }) => {
  await signIn('analyst');
  await openDemo(page, 'Harvests worth delivering');
  await slot(page, 'min_kilos').click();
  await page.getByLabel('min_kilos', { exact: true }).fill('5, 8');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Did you mean several values?')).toBeVisible();
  await page.getByRole('button', { name: 'It is one value' }).click();
  await expect(sentence(page)).toContainText('“5, 8” is no value for :min_kilos.');
});

test('what a parameter takes is written on its card, and its limits speak', async ({ page, signIn }) => {
  await signIn('analyst');
  await openDemo(page, 'Harvests of a season, by source and grade');
  await page.getByRole('button', { name: 'Parameters' }).click();
  const card = page.getByRole('group', { name: 'Parameter most_moisture' });
  await expect(card.getByLabel('Starts as the expression')).toHaveValue('37.0 / 2');
  await card.getByLabel('Greatest value').fill('18');
  await page.keyboard.press('Enter');
  await expect(sentence(page)).toContainText('Moisture is between 10 and 25 per cent.');
  await accessible(page);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(card.getByLabel('Greatest value')).toHaveValue('25');
  await page.getByRole('button', { name: 'What to do with :most_moisture' }).click();
  await page.getByRole('menuitem', { name: 'Move up' }).click();
  await expect(page.getByRole('group', { name: /^Parameter / }).nth(2)).toHaveAccessibleName('Parameter most_moisture');
});

test('a list of twenty thousand values is a count, and never in the address', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page);
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Criteria');
  await page.getByLabel('Field', { exact: true }).fill('id');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: /^Operator/ }).click();
  await page.getByRole('option', { name: 'one of', exact: true }).click();
  await page.getByLabel('Values for id').fill(':numbers');
  await page.keyboard.press('Enter');
  await slot(page, 'numbers').click();
  const many = Array.from({ length: 20_000 }, (_, index) => String(index * 3 + 1));
  await paste(page.getByLabel('numbers', { exact: true }), many.join('\n'));
  await page.getByRole('button', { name: `Use these ${thin(20_000)}` }).click();
  await expect(slot(page, 'numbers')).toHaveText(`:20000 values`);
  await left(page, await countOf('coop.harvests where id % 3 = 1 and id < 60000'));
  expect(page.url().length).toBeLessThan(2_200);
});

test('two people have different last values of one dataset', async ({ page, signIn, browser }) => {
  await signIn('analyst');
  await openDemo(page, 'Harvests of a season, by source and grade');
  await slot(page, 'period').click();
  await page.getByLabel('period from', { exact: true }).fill('2023-04-01');
  await page.getByLabel('period until', { exact: true }).fill('2023-09-30');
  const kept = page.waitForResponse((each) => each.url().includes('/last-values/'));
  await page.keyboard.press('Enter');
  expect((await kept).status()).toBe(200);
  await expect(slot(page, 'period')).toHaveText(':2023-04-01 until 2023-09-30');

  const context = await browser.newContext({ baseURL: new URL(page.url()).origin });
  const other = await context.newPage();
  await other.goto('/');
  await other.getByRole('button', { name: 'Sign in as the demo steward' }).click();
  await other.getByRole('link', { name: 'Datasets' }).click();
  await openDemo(other, 'Harvests of a season, by source and grade');
  await expect(slot(other, 'period')).toHaveText(':2025-04-01 until 2025-09-30');
  await context.close();

  await page.getByRole('link', { name: 'Datasets' }).click();
  await openDemo(page, 'Harvests of a season, by source and grade');
  await expect(slot(page, 'period')).toHaveText(':2023-04-01 until 2023-09-30');
});
