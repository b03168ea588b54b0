import { newDataset, sheetLine } from './bench-steps';
import { accessible, expect, test } from './support';

const MIRROR = 'https://mirror.cooperative.example/';

test('a value leads to its record once a steward allows where, is shown before it is followed, and not any more afterwards', async ({
  page,
  signIn,
}) => {
  await page.context().route(`${MIRROR}**`, (route) => route.fulfill({ contentType: 'text/html', body: 'the record' }));
  const links = async () => {
    await page.getByRole('navigation', { name: 'Main' }).getByRole('link', { name: 'Links' }).click();
    await expect(page.getByRole('heading', { name: 'Links' })).toBeVisible();
  };
  await signIn('steward');
  await newDataset(page, 'grade_prices');
  await page.getByRole('button', { name: 'Take all' }).click();
  await page.getByRole('link', { name: 'Fields' }).click();
  // The page before stands until this one is there, and has the same words.
  await sheetLine(page, 'floral_source').click();
  const address = page.getByRole('textbox', { name: 'Address its values lead to' });
  // One that is too long stays typed, and says so.
  await address.fill(`${MIRROR}${'x'.repeat(1_000)}`);
  await address.press('Enter');
  await expect(page.getByText(/\d characters, 1\s000 at most/)).toBeVisible();
  await expect(address).toHaveValue(/x{1000}$/);
  await address.fill(`${MIRROR}sources/{floral_source}?grade={grade}`);
  await page.keyboard.press('Enter');
  await expect(page.getByText('The link leads where no steward allowed links to lead.')).toBeVisible();
  await accessible(page);
  const dataset = page.url();

  await links();
  const begins = page.getByRole('textbox', { name: 'An address begins with' });
  await begins.fill('https://mirror.cooperative.example');
  await expect(page.getByText('leaves open where it leads to')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Allow it' })).toBeDisabled();
  await begins.fill(MIRROR);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('list', { name: 'Addresses that are allowed' })).toContainText(MIRROR);
  await accessible(page);

  await page.goto(dataset);
  await page.getByRole('link', { name: 'Proof' }).click();
  const value = page.getByRole('button', { name: 'heather' }).first();
  await value.click();
  const dialog = page.getByRole('dialog', { name: 'Where heather leads to' });
  await expect(dialog).toContainText(`${MIRROR}sources/heather?grade=A`);
  await accessible(page);
  const opened = page.context().waitForEvent('page');
  await dialog.getByRole('link', { name: 'Follow it' }).click();
  await expect((await opened).getByText('the record')).toBeVisible();
  await (await opened).close();

  // The row as a whole leads somewhere as well.
  const rows = page.getByRole('textbox', { name: 'Address its rows lead to' });
  await rows.fill('https://elsewhere.example/{grade}');
  await rows.press('Enter');
  await expect(page.getByText('The link leads where no steward allowed links to lead.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'record' })).toHaveCount(0);
  await rows.fill(`${MIRROR}prices/{floral_source}/{grade}`);
  await rows.press('Enter');
  await page.getByRole('button', { name: 'record' }).first().click();
  await expect(page.getByRole('dialog', { name: 'Where the row leads to' })).toContainText(`${MIRROR}prices/heather/A`);
  await accessible(page);
  await page.getByRole('button', { name: 'Close', exact: true }).click();

  await links();
  await page.getByRole('button', { name: `Take away ${MIRROR}` }).click();
  await expect(page.getByText(MIRROR, { exact: true })).toHaveCount(0);
  await page.goto(dataset);
  await page.getByRole('link', { name: 'Proof' }).click();
  await expect(page.getByRole('cell', { name: 'heather' }).first()).toBeVisible();
  await expect(page.getByRole('button', { name: 'heather' })).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'record' })).toHaveCount(0);
});
