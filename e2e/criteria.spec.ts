import type { Page } from '@playwright/test';
import { addStep, newDataset, paste, stamp, thin, trail } from './bench-steps';
import { accessible, expect, inDemo, test } from './support';

const kept = async (where: string) => Number((await inDemo<{ n: string }>(`select count(*) n from coop.harvests where ${where}`))[0]?.n);
const clauses = (page: Page) => page.getByRole('list', { name: 'Clauses' }).getByRole('listitem');
const clause = (page: Page, number: string) => clauses(page).filter({ has: page.getByText(number, { exact: true }) });
const left = (page: Page, rows: number) => expect(page.getByText(`${thin(rows)} left`)).toBeVisible();

async function harvestsWithCriteria(page: Page): Promise<void> {
  await newDataset(page);
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Criteria');
  await expect(page.getByLabel('Field', { exact: true })).toBeFocused();
}

async function openDemo(page: Page, title: string): Promise<void> {
  await page.getByRole('link', { name: title }).click();
  await expect(stamp(page).getByText(/as of /)).toBeVisible();
}

/** Fills the slots of the clause that has the focus: field and value, with the operator it begins with. */
async function typeClause(page: Page, field: string, value: string): Promise<void> {
  await page.keyboard.type(field);
  await expect(page.getByRole('option').first()).toContainText(field);
  await page.keyboard.press('Enter');
  await expect(page.getByLabel(new RegExp(`^Values? for ${field}`)).last()).toBeVisible();
  await page.keyboard.press('Tab');
  await page.keyboard.press('Tab');
  await expect(page.getByLabel(new RegExp(`^Values? for ${field}`)).last()).toBeFocused();
  await page.keyboard.type(value);
  await page.keyboard.press('Enter');
}

test('criteria of three levels are built by keyboard only, by slots and by typing', async ({ page, signIn }) => {
  await signIn('analyst');
  await harvestsWithCriteria(page);
  await typeClause(page, 'kilos', '5');
  await left(page, await kept('kilos >= 5'));
  await page.keyboard.press('Alt+Enter');
  await expect(page.getByLabel('Field', { exact: true }).last()).toBeFocused();
  await typeClause(page, 'grade', 'A');
  await left(page, await kept("kilos >= 5 and grade = 'A'"));

  // Into a group: the clause becomes 2.1, and an empty 2.2 waits for an expression, the third level.
  await page.keyboard.press('Alt+g');
  await expect(clauses(page)).toHaveCount(4);
  await clause(page, '2.2').getByLabel('Field', { exact: true }).focus();
  await page.keyboard.type('moisture < 16 and (kilos > 20 or apiary_code is null)');
  await page.keyboard.press('Enter');
  await expect(clause(page, '2.2').getByLabel('Expression')).toBeVisible();
  const whole = await kept("kilos >= 5 and (grade = 'A' or (moisture < 16 and (kilos > 20 or apiary_code is null)))");
  await left(page, whole);
  await expect(clause(page, '2.2')).toContainText('only this one');

  // F2 writes the first clause out, and brings its slots back.
  await clause(page, '1').getByLabel('Field', { exact: true }).focus();
  await page.keyboard.press('F2');
  await expect(clause(page, '1').getByLabel('Expression')).toHaveValue('kilos >= 5');
  await clause(page, '1').getByLabel('Expression').focus();
  await page.keyboard.press('F2');
  await expect(clause(page, '1').getByLabel('Value for kilos')).toHaveValue('5');
  await clause(page, '1').getByLabel('Field', { exact: true }).focus();
  await page.keyboard.press('Alt+ArrowDown');
  await expect(clause(page, '2').getByLabel('Value for kilos')).toHaveValue('5');
  await left(page, whole);
  // What is added to a group takes the focus, so that it can be written at once.
  await clause(page, '1').getByRole('button', { name: 'Add to the group' }).focus();
  await page.keyboard.press('Enter');
  await expect(clause(page, '1.3').getByLabel('Field', { exact: true })).toBeFocused();
  await page.keyboard.type('kilos > 30');
  await page.keyboard.press('Enter');
  await left(page, await kept("kilos >= 5 and (grade = 'A' or (moisture < 16 and (kilos > 20 or apiary_code is null)) or kilos > 30)"));
  await accessible(page);
});

test('why nothing came back is told, and a clause switched off brings rows back', async ({ page, signIn }) => {
  await signIn('analyst');
  await openDemo(page, 'Harvests that leave nothing');
  const why = page.getByRole('region', { name: 'Why no row is left' });
  await expect(why).toContainText('Clauses 2 and 4 exclude each other.');
  await expect(why.getByRole('listitem')).toHaveCount(2);
  await expect(why.getByRole('listitem').first()).toContainText('Only clause 2 drops');
  await accessible(page);
  await clause(page, '4').getByLabel('Expression').focus();
  await page.keyboard.press('Alt+o');
  await expect(clause(page, '4')).toContainText('off');
  await left(page, await kept("grade in ('A', 'B') and kilos >= 20 and moisture < 18"));
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(why).toBeVisible();
});

test('a misspelt value is pointed out, and the nearest one is one click away', async ({ page, signIn }) => {
  await signIn('analyst');
  await harvestsWithCriteria(page);
  await typeClause(page, 'floral_source', 'heathr');
  await expect(page.getByText('“heathr” is nowhere in floral_source.')).toBeVisible();
  await page.getByRole('button', { name: /^heather/ }).click();
  await expect(page.getByLabel('Value for floral_source')).toHaveValue('heather');
  await left(page, await kept("floral_source = 'heather'"));
  await expect(page.getByText('is nowhere in')).toHaveCount(0);
  // Also one the column cannot hold, for it has two decimals.
  await page.getByRole('button', { name: 'Add a clause' }).click();
  await expect(page.getByLabel('Field', { exact: true }).last()).toBeFocused();
  await typeClause(page, 'kilos', '20.005');
  await clause(page, '2').getByLabel('Operator').click();
  await page.getByRole('option', { name: 'equals', exact: true }).click();
  await expect(page.getByText('“20.005” is nowhere in kilos.')).toBeVisible();
  await page.getByRole('button', { name: /^20\.01/ }).click();
  // The one that was pressed is gone, and the focus with what stands behind it.
  await expect(page.getByRole('button', { name: 'Add a clause' })).toBeFocused();
  await left(page, await kept("floral_source = 'heather' and kilos = 20.01"));
  // So it is where what a menu is of goes with it.
  await page.getByRole('button', { name: 'What to do with clause 2' }).press('Enter');
  await page.getByRole('menuitem', { name: /^Remove/ }).press('Enter');
  await expect(clause(page, '2')).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Add a clause' })).toBeFocused();
});

test('values are picked from the data with their counts', async ({ page, signIn }) => {
  await signIn('analyst');
  await harvestsWithCriteria(page);
  await page.keyboard.type('floral');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await page.getByLabel('Value for floral_source').fill('HEA');
  const [heather] = await inDemo<{ n: string }>("select count(*) n from coop.harvests where floral_source = 'heather'");
  await page.getByRole('option', { name: `heather ${thin(Number(heather?.n))} rows` }).click();
  await left(page, Number(heather?.n));
});

test('codes pasted at once become a text, with what is not found and what is repeated', async ({ page, signIn }) => {
  await signIn('analyst');
  await harvestsWithCriteria(page);
  await page.keyboard.type('apiary');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: /^Operator/ }).click();
  await page.getByRole('option', { name: 'one of', exact: true }).click();
  const known = await inDemo<{ code: string }>(
    'select distinct apiary_code as code from coop.harvests where apiary_code = trim(apiary_code) order by 1 limit 200',
  );
  const codes = known.map((each) => each.code);
  await paste(page.getByLabel('Values for apiary_code'), [...codes, codes[0], 'ZZ-999'].join('\n'));
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByRole('region', { name: 'Not found' })).toContainText('ZZ-999');
  await expect(dialog.getByRole('region', { name: 'Repeated' })).toContainText(`${codes[0]} × 2`);
  await accessible(page);
  await dialog.getByRole('button', { name: 'Take out what is not found' }).click();
  await dialog.getByRole('button', { name: `Use these ${codes.length}` }).click();
  await expect(page.getByRole('button', { name: `${codes.length} codes` })).toBeVisible();
  const [rows] = await inDemo<{ n: string }>(
    `select count(*) n from coop.harvests where apiary_code = any('{${codes.map((each) => `"${each}"`).join(',')}}')`,
  );
  await left(page, Number(rows?.n));
});

test('a missing row is followed to the clause that dropped it, and a picked one back to its source', async ({ page, signIn }) => {
  await signIn('analyst');
  await openDemo(page, 'Harvests worth delivering');
  const [small] = await inDemo<{ id: string; kilos: string }>(
    'select id::text, kilos::text from coop.harvests where kilos < 5 order by id limit 1',
  );
  await page.getByRole('button', { name: 'Follow a row' }).click();
  await page.getByLabel('Value the row is known by').fill(small?.id ?? '');
  await page.keyboard.press('Enter');
  await expect(trail(page)).toContainText(`dropped by clause 1 (kilos was ${small?.kilos})`);
  await expect(page.getByRole('region', { name: 'Followed row' })).toContainText(small?.kilos ?? '');
  await accessible(page);
  await page.getByRole('button', { name: 'Follow row 1', exact: true }).click();
  await expect(trail(page).getByText('present')).toHaveCount(2);
  await expect(page.getByRole('region', { name: 'Followed row' })).toContainText('batch');
  await page.getByRole('button', { name: 'Stop following' }).click();
  await expect(trail(page).getByText('present')).toHaveCount(0);
});

test('values become a parameter with one key, and values again', async ({ page, signIn }) => {
  await signIn('analyst');
  await harvestsWithCriteria(page);
  await typeClause(page, 'kilos', '7.5');
  await page.keyboard.press('Alt+p');
  const sentence = page.getByRole('region', { name: 'Sentence' });
  await expect(sentence.getByRole('button', { name: 'kilos: 7.5' })).toBeVisible();
  await left(page, await kept('kilos >= 7.5'));
  await clause(page, '1').getByLabel('Field', { exact: true }).focus();
  await page.keyboard.press('Alt+p');
  await expect(clause(page, '1').getByLabel('Value for kilos')).toHaveValue('7.5');
  await expect(sentence.getByRole('button', { name: /^kilos/ })).toHaveCount(0);
});
