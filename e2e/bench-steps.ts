import type { Locator, Page } from '@playwright/test';
import { expect } from './support';

export const thin = (count: number) => String(count).replace(/\B(?=(\d{3})+(?!\d))/g, '\u202f');
export const saved = (page: Page, revision: number) => expect(page.getByText(`draft r${revision}, saved`)).toBeVisible();

/** A new dataset of a table, with nothing taken yet. */
export async function newDataset(page: Page, table = 'harvests'): Promise<void> {
  await page.getByRole('link', { name: 'Datasets' }).click();
  await page.getByRole('button', { name: 'New from a table' }).click();
  await page.getByLabel('Table to begin from').fill(table);
  await page
    .getByRole('option')
    .filter({ hasText: `coop.${table}` })
    .first()
    .click();
  await expect(page.getByText('Nothing chosen yet. Below is a sample of the source')).toBeVisible();
}

/** A dataset of a table of which some fields are taken. */
export async function newDatasetWith(page: Page, table: string, names: string): Promise<void> {
  await newDataset(page, table);
  await page.getByRole('button', { name: 'Paste names' }).click();
  await page.getByLabel('Names of fields to take').fill(names);
  await page.getByRole('button', { name: 'Take them' }).click();
}

/** A dataset of a pasted text, once its fields are known. */
export async function pastedSql(page: Page, text: string, fields: number): Promise<void> {
  await page.getByRole('button', { name: 'Paste SQL' }).click();
  await page.getByRole('textbox', { name: 'SQL text' }).fill(text);
  await page.getByRole('button', { name: 'Begin' }).click();
  await expect(page.getByText(`It gives ${fields} fields.`)).toBeVisible();
}

export const trail = (page: Page) => page.getByRole('region', { name: 'Trail' });
export const stamp = (page: Page) => page.getByRole('region', { name: 'Rows', exact: true });

type Added = 'Criteria' | 'Calculate' | 'Bring in' | 'Look up' | 'Summarise' | 'Union' | 'Unpivot' | 'Arrange' | 'Line sheet' | 'Procedure';

/** Adds a step behind the selected one. */
export async function addStep(page: Page, kind: Added): Promise<void> {
  await trail(page).getByRole('button', { name: 'Add a step' }).click();
  await page.getByRole('menuitem', { name: kind }).click();
}

/** Pastes a text, as from another program. */
export function paste(into: Locator, text: string): Promise<void> {
  return into.evaluate((input, given) => {
    const pasted = new DataTransfer();
    pasted.setData('text/plain', given);
    input.dispatchEvent(new ClipboardEvent('paste', { clipboardData: pasted, bubbles: true, cancelable: true }));
  }, text);
}

/** A field's line on the field sheet. */
export const sheetLine = (page: Page, name: string) =>
  page
    .getByRole('list', { name: /^Fields / })
    .getByRole('listitem')
    .filter({ has: page.getByText(name, { exact: true }) });

/** Opens the demo dataset whose parameter is :min_kilos with 5 for it, whatever was used last. */
export async function openWorthDelivering(page: Page): Promise<void> {
  await page.getByRole('link', { name: 'Harvests worth delivering' }).click();
  await page
    .getByRole('region', { name: 'Sentence' })
    .getByRole('button', { name: /^min_kilos/ })
    .click();
  await page.getByLabel('min_kilos', { exact: true }).fill('5');
  await page.keyboard.press('Enter');
  await expect(stamp(page)).toContainText(':min_kilos 5');
  await expect(stamp(page).getByText('out of date')).toHaveCount(0);
}
