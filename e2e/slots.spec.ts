import type { Page } from '@playwright/test';
import { addStep, newDataset, openWorthDelivering, stamp, thin } from './bench-steps';
import { accessible, expect, inDemo, test } from './support';

/** What is typed into a slot is what is meant, however it is left; offers are taken by moving to them or clicking them. */

test.use({ actionTimeout: 15_000 });

const sentence = (page: Page) => page.getByRole('region', { name: 'Sentence' });
const slot = (page: Page, name: string) => sentence(page).getByRole('button', { name: new RegExp(`^${name}: `) });

/** Harvests with a clause about a field, whose value is still to be given. */
async function clauseAbout(page: Page, field: string, operator?: string): Promise<void> {
  await newDataset(page, 'harvests');
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Criteria');
  await aboutField(page, field, operator);
}

/** Fills the field of the newest clause, and its operator where that is not to stay. */
async function aboutField(page: Page, field: string, operator?: string): Promise<void> {
  await page.getByLabel('Field', { exact: true }).last().fill(field);
  await page.getByRole('option').filter({ hasText: field }).first().click();
  if (operator === undefined) return;
  await page
    .getByRole('button', { name: /^Operator/ })
    .last()
    .click();
  await page.getByRole('option', { name: operator, exact: true }).click();
}

/** A parameter :flower of text whose choices are those of floral_source. */
async function flowers(page: Page): Promise<void> {
  await clauseAbout(page, 'floral_source');
  await page.getByLabel('Value for floral_source').fill(':flower');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Parameters', exact: true }).click();
  await page.getByRole('button', { name: /^Where choices come from/ }).click();
  await page.getByRole('option', { name: 'a field', exact: true }).click();
  // The choices begin with the field the parameter is asked with.
  await expect(page.getByLabel('Field the choices come from')).toHaveValue('floral_source');
}

test('a choice is what is typed, and an emptied slot is blank, by Enter, Tab and leaving', async ({ page, signIn }) => {
  await signIn('analyst');
  await flowers(page);
  const typed = page.getByLabel('flower', { exact: true });
  await slot(page, 'flower').click();
  await expect(page.getByRole('option', { name: 'chestnut' })).toBeVisible();

  // Nothing of the panel is covered by its offers.
  const blank = await page.getByRole('button', { name: 'Leave blank' }).boundingBox();
  const offers = await page.getByRole('listbox').boundingBox();
  expect(blank && offers && blank.y + blank.height <= offers.y).toBe(true);
  await accessible(page);

  await typed.fill('heath');
  await page.keyboard.press('Enter');
  await expect(slot(page, 'flower')).toHaveText(':heath');
  // Misspelt, it is told with the nearest there are.
  await sentence(page)
    .getByRole('button', { name: /^heather/ })
    .click();
  await expect(slot(page, 'flower')).toHaveText(':heather');

  await slot(page, 'flower').click();
  await typed.press('Control+a');
  await typed.press('Delete');
  await page.keyboard.press('Enter');
  await expect(slot(page, 'flower')).toHaveText(/blank|anything|^:$/);
  await expect(stamp(page)).toContainText(':flower (left blank)');

  await slot(page, 'flower').click();
  await typed.fill('lim');
  await page.keyboard.press('Tab');
  await expect(slot(page, 'flower')).toHaveText(':lim');
  await slot(page, 'flower').click();
  await typed.fill('');
  await page.keyboard.press('Tab');
  await expect(slot(page, 'flower')).not.toHaveText(/lim|chestnut/);

  await slot(page, 'flower').click();
  await page.getByRole('option', { name: 'rape' }).hover();
  await typed.fill('clover');
  await page.keyboard.press('Enter');
  await expect(slot(page, 'flower')).toHaveText(':clover');
  await slot(page, 'flower').click();
  await page.getByRole('option', { name: 'rape' }).click();
  await expect(slot(page, 'flower')).toHaveText(':rape');
  await slot(page, 'flower').click();
  await page.getByRole('button', { name: 'Leave blank' }).click();
  await expect(slot(page, 'flower')).not.toHaveText(/rape/);
});

test('a field is what is typed by its whole name; one found by a part of it is moved to or clicked', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'harvests');
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Criteria');
  const field = page.getByLabel('Field', { exact: true });
  const operator = page.getByRole('button', { name: /^Operator/ });
  // What is added has the focus and its list open; Enter takes nothing of it.
  await expect(field).toBeFocused();
  await expect(page.getByRole('option', { name: 'kilos' })).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('listbox')).toHaveCount(0);
  await expect(operator).toHaveCount(0);

  await page.keyboard.type('kil');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('status').filter({ hasText: 'No field is called “kil”.' })).toBeAttached();
  await expect(page.getByRole('listbox')).toContainText('No field is called “kil”. It is a part of:');
  await expect(field).toHaveAttribute('aria-invalid', 'true');
  await accessible(page);
  await page.keyboard.press('Tab');
  await expect(page.getByRole('listbox')).toHaveCount(0);
  await expect(page.getByText('No field is called “kil”.')).toBeVisible();
  await expect(field).toHaveValue('kil');
  await field.focus();
  await page.keyboard.press('Escape');
  await expect(field).toHaveValue('');
  await expect(page.getByText('No field is called')).toHaveCount(0);

  await page.keyboard.type('KILOS');
  await page.keyboard.press('Tab');
  await expect(operator).toBeVisible();
  await expect(field).toHaveValue('kilos');
  await field.fill('gra');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(field).toHaveValue('grade');
  await field.fill('flo');
  await page.getByRole('option', { name: 'floral_source' }).click();
  await expect(field).toHaveValue('floral_source');
  await field.click();
  await page.getByRole('option', { name: 'batch' }).hover();
  await field.fill('moisture');
  await page.keyboard.press('Enter');
  await expect(field).toHaveValue('moisture');
  await field.fill('');
  await page.keyboard.press('Tab');
  await expect(field).toHaveValue('moisture');

  // What only gets the focus again covers nothing by its list.
  await page.keyboard.press('Alt+o');
  await expect(field).toBeFocused();
  await expect(page.getByText('off', { exact: true })).toBeVisible();
  await expect(page.getByRole('listbox')).toHaveCount(0);
  await page.keyboard.press('Alt+o');
});

test('of an empty slot, Enter takes none of the values offered, and the first arrow goes to the first one', async ({ page, signIn }) => {
  await signIn('analyst');
  await clauseAbout(page, 'grade');
  const value = page.getByLabel('Value for grade');
  await value.click();
  await expect(page.getByRole('option').first()).toContainText('rows');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('listbox')).toHaveCount(0);
  await expect(value).toHaveValue('');
  await value.click();
  const first = (await page.getByRole('option').first().innerText()).trim().charAt(0);
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(value).toHaveValue(first);
});

test('days are read in every form that can mean one day only, and asked about where there are two', async ({ page, signIn }) => {
  await signIn('analyst');
  await clauseAbout(page, 'picked_on', 'from');
  const value = page.getByLabel('Value for picked_on', { exact: true });
  await value.fill('1 Apr 2024');
  await page.keyboard.press('Enter');
  await expect(value).toHaveValue('2024-04-01');
  const [kept] = await inDemo<{ n: string }>("select count(*) n from coop.harvests where picked_on >= '2024-04-01'");
  await expect(page.getByText(`${thin(Number(kept?.n))} left`)).toBeVisible();
  await value.fill('30.9.2024');
  await page.keyboard.press('Tab');
  await expect(value).toHaveValue('2024-09-30');
  await value.fill('3/4/2024');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: '4 March 2024' })).toBeVisible();
  await page.getByRole('button', { name: '3 April 2024' }).click();
  await expect(value).toHaveValue('2024-04-03');
  // What was asked goes away with its buttons; the focus is back in the slot, whose list stays closed.
  await expect(value).toBeFocused();
  await expect(page.getByRole('listbox')).toHaveCount(0);
  await page.getByLabel('picked_on, value, from the calendar').fill('2024-05-06');
  await expect(value).toHaveValue('2024-05-06');
});

test('a number with a comma is offered as the number it may be, before several values', async ({ page, signIn }) => {
  await signIn('analyst');
  await openWorthDelivering(page);
  await slot(page, 'min_kilos').click();
  await page.getByLabel('min_kilos', { exact: true }).fill('7,5');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'the number 7.5' }).click();
  await expect(slot(page, 'min_kilos')).toHaveText(':7.5');
});

test('values are counted among the rows that arrive at the clause, and chosen ones are ticked', async ({ page, signIn }) => {
  await signIn('analyst');
  await clauseAbout(page, 'grade');
  await page.getByLabel('Value for grade').fill('A');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Add a clause' }).click();
  await aboutField(page, 'floral_source', 'one of');
  const values = page.getByLabel('Values for floral_source');
  await values.click();
  const [lime] = await inDemo<{ n: string }>("select count(*) n from coop.harvests where grade = 'A' and floral_source = 'lime'");
  const [heather] = await inDemo<{ n: string }>("select count(*) n from coop.harvests where grade = 'A' and floral_source = 'heather'");
  await page.getByRole('option', { name: `lime ${thin(Number(lime?.n))} rows` }).click();
  await expect(page.getByText(`${thin(Number(lime?.n))} left`)).toBeVisible();
  await values.click();
  await expect(page.getByRole('option').filter({ hasText: 'lime' })).toHaveAttribute('aria-disabled', 'true');
  await expect(page.getByRole('option').filter({ hasText: 'lime' }).getByLabel('chosen already')).toBeVisible();
  await page.getByRole('option', { name: `heather ${thin(Number(heather?.n))} rows` }).click();
  await expect(page.getByText(`${thin(Number(lime?.n) + Number(heather?.n))} left`)).toBeVisible();
});

test('a narrowing begins with the parameter and field that fit, and one that leaves nothing says so', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'apiaries');
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Criteria');
  for (const [field, name] of [
    ['district_code', 'district'],
    ['name', 'apiary'],
  ] as const) {
    if (name === 'apiary') await page.getByRole('button', { name: 'Add a clause' }).click();
    await aboutField(page, field);
    await page.getByLabel(`Value for ${field}`).fill(`:${name}`);
    await page.keyboard.press('Enter');
  }
  await page.getByRole('button', { name: 'Parameters', exact: true }).click();
  const card = page.getByRole('group', { name: 'Parameter apiary' });
  await card.getByRole('button', { name: /^Where choices come from/ }).click();
  await page.getByRole('option', { name: 'a field', exact: true }).click();
  await card.getByRole('button', { name: 'narrow by another parameter' }).click();
  await expect(card.getByRole('button', { name: 'Parameter that narrows: district' })).toBeVisible();
  await expect(card.getByLabel('Field it is narrowed in')).toHaveValue('district_code');
  await slot(page, 'district').click();
  await page.getByLabel('district', { exact: true }).fill('nowhere');
  await page.keyboard.press('Enter');
  await slot(page, 'apiary').click();
  await expect(page.getByText('Narrowed by :district, no choice is left.')).toBeVisible();
});
