import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { DuckDBInstance } from '@duckdb/node-api';
import { expect, inDemo, test } from './support';

/** What is taken away, opened and read back. */

const DEMO = 'Yield of 2025 by floral source';

test('the proof is taken away as a PDF that says what the screen says', async ({ page, signIn }, testInfo) => {
  await signIn('analyst');
  await page.getByRole('link', { name: DEMO }).click();
  await page.getByRole('link', { name: 'Proof' }).click();
  await expect(page.getByRole('table', { name: 'Lines of the proof' })).toContainText('Floral source: chestnut');
  const title = await page.getByRole('heading', { level: 2 }).first().innerText();
  await page.getByRole('button', { name: 'Take away' }).click();
  await expect(page.getByRole('menu')).toContainText('As it is read here');
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('menuitem', { name: 'PDF' }).click()]);
  expect(download.suggestedFilename()).toBe(`${DEMO}.pdf`);
  const file = testInfo.outputPath('proof.pdf');
  await download.saveAs(file);
  const text = execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' }).replaceAll(/\s+/g, ' ');
  expect(text).toContain(title.replaceAll(/\s+/g, ' '));
  expect(text).toContain('Floral source: chestnut');
  const [own] = await inDemo<{ kilos: string }>(
    "select round(sum(kilos), 1)::text kilos from coop.harvests where picked_on between '2025-04-01' and '2025-09-30'",
  );
  const [whole = '', behind = ''] = String(own?.kilos).split('.');
  expect(text.replaceAll(/(?<=\d)\s(?=\d{3})/g, '')).toContain(`${whole}.${behind}`);
});

test('what is taken away as Parquet is read back as the database has it', async ({ page, signIn }, testInfo) => {
  await signIn('analyst');
  await page.getByRole('link', { name: DEMO }).click();
  await page.getByRole('link', { name: 'Proof' }).click();
  await page.getByRole('button', { name: 'Take away' }).click();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('menuitem', { name: 'Parquet' }).click()]);
  expect(download.suggestedFilename()).toBe(`${DEMO}.parquet`);
  const file = testInfo.outputPath('rows.parquet');
  await download.saveAs(file);
  expect(readFileSync(file).subarray(0, 4).toString()).toBe('PAR1');
  const connection = await (await DuckDBInstance.create(':memory:')).connect();
  const read = await connection.runAndReadAll(
    `select batch, kilos::varchar, moisture::varchar, picked_on::varchar from '${file}' order by 1`,
  );
  connection.closeSync();
  const own = await inDemo<Record<string, string | null>>(
    "select batch, kilos::text, moisture::text, picked_on::text from coop.harvests where picked_on between '2025-04-01' and '2025-09-30' order by batch collate \"C\"",
  );
  expect(read.getRowsJson()).toEqual(own.map((row) => [row.batch, row.kilos, row.moisture, row.picked_on]));
});

test('a take-away that fails says why, where it was asked for', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: DEMO }).click();
  await page.getByRole('link', { name: 'Proof' }).click();
  const take = async () => {
    await page.getByRole('button', { name: 'Take away' }).click();
    await page.getByRole('menuitem', { name: 'CSV' }).click();
  };
  const problem = { code: 'disk-full', severity: 'error', message: 'Cendra has no room left to write the file.', place: {} };
  await page.route('**/api/results/*/file?*', (route) =>
    route.fulfill({ status: 507, contentType: 'application/problem+json', body: JSON.stringify({ status: 507, problems: [problem] }) }),
  );
  await take();
  await expect(page.getByText(problem.message)).toBeVisible();
  await page.unroute('**/api/results/*/file?*');
  const [download] = await Promise.all([page.waitForEvent('download'), take()]);
  expect(download.suggestedFilename()).toBe(`${DEMO}.csv`);
  await expect(page.getByText(problem.message)).toHaveCount(0);
});
