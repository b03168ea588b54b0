import { pastedSql } from './bench-steps';
import { accessible, expect, test } from './support';

/** What is said of one field is said of others as well, by one edit. */

test('a format is given to several fields at once, and a mark to several', async ({ page, signIn }) => {
  await signIn('analyst');
  await pastedSql(
    page,
    "select * from (values ('A', 1234.5, 10.25, 7.5, date '2024-05-01')) lots (grade, kilos, price, moisture, picked_on)",
    5,
  );
  await page.getByRole('link', { name: 'Fields' }).click();
  await page.getByRole('list', { name: 'Fields handed over' }).getByText('kilos', { exact: true }).click();
  const card = page.getByRole('region', { name: 'Field kilos' });
  await card.getByRole('textbox', { name: 'Pattern' }).fill('#,##0.000');
  await page.keyboard.press('Enter');
  await card.getByRole('button', { name: 'Write others so …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Write others so …' });
  // Days are written by other patterns.
  await expect(dialog.getByRole('listitem')).toHaveText([/Price/, /Moisture/]);
  await accessible(page);
  await dialog.getByRole('checkbox', { name: 'All of them' }).click();
  await dialog.getByRole('button', { name: 'Write 2 fields so' }).click();
  const lines = page.getByRole('list', { name: 'Fields handed over' }).getByRole('listitem');
  await expect(lines.filter({ hasText: '#,##0.000' })).toHaveCount(3);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(lines.filter({ hasText: '#,##0.000' })).toHaveCount(1);

  await page.getByRole('link', { name: 'Proof' }).click();
  await page.getByRole('button', { name: 'Mark values' }).click();
  await page.getByLabel('Value of mark 1').fill('8');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Mark others so …' }).click();
  const marks = page.getByRole('dialog', { name: 'Mark others so …' });
  await marks.getByRole('checkbox', { name: /^Price/ }).click();
  await marks.getByRole('checkbox', { name: /^Moisture/ }).click();
  await marks.getByRole('button', { name: 'Mark 2 fields so' }).click();
  await expect(page.getByRole('list', { name: 'Marks' }).getByRole('listitem')).toHaveCount(3);
  const table = page.getByRole('table', { name: 'Lines of the proof' });
  // Seven and a half is not above eight.
  await expect
    .poll(async () => (await table.locator('[role=row]').nth(1).locator('[role=cell].font-bold').allTextContents()).length)
    .toBe(2);
});
