import type { Page } from '@playwright/test';
import { accessible, demo, expect, test } from './support';

const sources = (page: Page) => page.getByRole('navigation', { name: 'Main' }).getByRole('link', { name: 'Sources' });

test('the steward looks around a source, and adds, tests, changes, gives and removes one', async ({ page, signIn }) => {
  await signIn('steward');
  await sources(page).click();
  await expect(page.getByRole('heading', { name: 'Sources' })).toBeVisible();
  await accessible(page);
  await page.getByRole('link', { name: 'Cooperative database' }).click();
  await page.getByRole('button', { name: 'Test connection' }).click();
  await expect(page.getByText('Answers as cendra_read, PostgreSQL')).toBeVisible();

  await page.getByLabel('Part of a table’s name').fill('harv');
  await page.getByRole('button', { name: 'coop.harvests' }).click();
  await expect(page.getByText('~12 430 rows, estimated'.replace(' ', '\u202f'))).toBeVisible();
  await page.getByRole('button', { name: 'Count exactly' }).click();
  await expect(page.getByText('12\u202f430 rows, exactly')).toBeVisible();
  const columns = page.getByRole('table').first();
  await expect(columns.getByRole('row', { name: /kilos/ })).toContainText('decimal(8,2)');
  await expect(columns.getByRole('row', { name: /^key id/ })).toContainText('primary key');
  await expect(page.getByRole('region', { name: 'Relations' })).toContainText('is pointed to by deliveries');
  await expect(page.getByRole('region', { name: 'Sample rows' }).last()).toContainText('B000001');
  await accessible(page);

  await sources(page).click();
  await page.getByRole('button', { name: 'Add a source' }).click();
  await accessible(page);
  const form = page.getByRole('form', { name: 'A new source' });
  const fill = async (label: string, value: string) => form.getByLabel(label, { exact: true }).fill(value);
  await fill('Name', 'Second cooperative');
  await fill('Two-letter mark', 'SC');
  await fill('Host', 'nowhere.invalid');
  await fill('Port', String(demo.port));
  await fill('Database', 'cooperative');
  await fill('User', 'cendra_read');
  await fill('Password', 'wrong');
  await form.getByLabel('TLS').selectOption('off');
  const test = form.getByRole('button', { name: 'Test' });
  await test.click();
  await expect(form.getByText('There is no host named nowhere.invalid.').first()).toBeVisible();
  await fill('Host', '127.0.0.1');
  await expect(form.getByText('A setting changed since this test.')).toBeVisible();
  await test.click();
  await expect(form.getByText('does not accept cendra_read').first()).toBeVisible();
  await fill('Password', demo.password);
  await form.getByLabel('TLS').selectOption('required');
  await test.click();
  await expect(form.getByText('does not offer TLS').first()).toBeVisible();
  await form.getByLabel('TLS').selectOption('off');
  await test.click();
  await expect(form.getByText('Answers as cendra_read')).toBeVisible();
  await form.getByRole('button', { name: 'Add source' }).click();
  await expect(page.getByRole('heading', { name: 'Second cooperative' })).toBeVisible();

  await page.getByRole('button', { name: 'Test connection' }).click();
  await expect(page.getByText('tables can be read')).toBeVisible();
  await page.getByRole('button', { name: 'Settings' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Second co-op');
  await page.getByLabel('Database', { exact: true }).fill('postgres');
  await page.getByRole('button', { name: 'Keep changes' }).click();
  await expect(page.getByText('A password is used only where, and in the way, it was given for.')).toBeVisible();
  await page.getByLabel('Password').fill(demo.password);
  await page.getByRole('button', { name: 'Keep changes' }).click();
  await expect(page.getByRole('heading', { name: 'Second co-op' })).toBeVisible();
  await expect(page.getByText('A setting changed since this test.')).toBeVisible();

  await page.getByRole('tab', { name: 'Access' }).click();
  const barnaby = page.getByRole('checkbox', { name: 'Barnaby Quill analyst', exact: true });
  await barnaby.click();
  await expect(barnaby).toBeChecked();
  await page.reload();
  await expect(barnaby).toBeChecked();
  await accessible(page);

  await page.getByRole('button', { name: 'Remove' }).click();
  await expect(page.getByText('Datasets that read it stay')).toBeVisible();
  await page.getByRole('button', { name: 'Remove the source' }).click();
  await expect(page.getByRole('heading', { name: 'Sources' })).toBeVisible();
  await expect(page.getByText('Second co-op')).toHaveCount(0);
});

test('the steward reads the limits, and a wrong sign-in is told in place', async ({ page, cendra, signIn }) => {
  await page.goto(cendra);
  await page.getByLabel('Name').fill('steward');
  await page.getByLabel('Password').fill('wrong');
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('The name or the password is wrong.');
  await accessible(page);
  await signIn('steward');
  await page.getByRole('link', { name: 'Limits' }).click();
  await expect(page.getByText('rows of a head run')).toBeVisible();
  const use = page.getByRole('table', { name: 'In use now' });
  await expect(use.getByRole('row', { name: 'memory of the combine engine' })).toContainText('MB');
  // Others that run beside this one may listen too.
  await expect(use.getByRole('row', { name: 'browsers that listen' })).toHaveText(/^[1-9]/);
  await accessible(page);
});

test('a table that is pressed is chosen, also when the list grows shorter under the pointer', async ({ page, signIn }) => {
  await signIn('steward');
  await sources(page).click();
  await page.getByRole('link', { name: 'Cooperative database' }).click();
  const harvests = page.getByRole('button', { name: 'coop.harvests' });
  const before = await harvests.boundingBox();
  if (!before) throw new Error('all tables are listed');
  await page.mouse.move(before.x + 20, before.y + before.height / 2);
  await page.mouse.down();
  await page.getByLabel('Part of a table’s name').fill('harv');
  // The table that is chosen lists its relations, so the other tables are waited for by name.
  await expect(page.getByRole('button', { name: 'coop.regions' })).toHaveCount(0);
  await page.mouse.up();
  await expect(page.getByText('~12\u202f430 rows, estimated')).toBeVisible();
});
