import { newDataset } from './bench-steps';
import { accessible, expect, test } from './support';

/** What a dataset carries besides its steps, and what becomes of it in the list. */

test('the request is kept with the dataset and ticked off by hand', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'regions');
  await page.getByRole('button', { name: 'Brief' }).click();
  const brief = page.getByRole('complementary', { name: 'Brief' });
  await brief.getByLabel('The request').fill('All regions, by name');
  await brief.getByLabel('The request').press('Control+Enter');
  await brief.getByRole('button', { name: 'Add a figure' }).click();
  await page.keyboard.type('regions');
  await page.keyboard.press('Enter');
  await brief.getByLabel('The figure').fill('4');
  await page.keyboard.press('Enter');
  await brief.getByRole('checkbox', { name: 'Met: regions' }).click();
  await expect(brief).toContainText('1 of 1 met');
  await accessible(page);
  await page.reload();
  await page.getByRole('button', { name: 'Brief' }).click();
  await expect(brief.getByLabel('The request')).toHaveValue('All regions, by name');
  await expect(brief.getByRole('checkbox', { name: 'Met: regions' })).toBeChecked();
});

test('a dataset is renamed, tagged, duplicated, deleted and taken back', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'hives');
  await page.getByRole('link', { name: 'Fields' }).click();
  await page.getByLabel('Add a tag').fill('money');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/draft r2, saved/)).toBeVisible();
  await page.getByRole('link', { name: 'Datasets' }).click();
  const menu = (title: string | RegExp) => page.getByRole('button', { name: title });
  await menu(/What to do with Hives/).click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.getByLabel(/New title of/).fill('Advances paid');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('link', { name: 'Advances paid' })).toBeVisible();
  await menu('What to do with Advances paid').click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect(page.getByLabel('Title of the dataset')).toHaveValue('Copy of Advances paid');
  await page.getByRole('link', { name: 'Datasets' }).click();
  await page.getByRole('button', { name: 'Show what is tagged money' }).first().click();
  await expect(page.getByRole('row')).toHaveCount(3);
  await accessible(page);
  await menu('What to do with Copy of Advances paid').click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(page.getByText('Deleted Copy of Advances paid.')).toBeVisible();
  await expect(page.getByRole('row')).toHaveCount(2);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('row')).toHaveCount(3);
});
