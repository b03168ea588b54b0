import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { DuckDBInstance } from '@duckdb/node-api';
import { newDataset, openWorthDelivering, sheetLine, thin } from './bench-steps';
import { accessible, expect, inDemo, test } from './support';

const DEMO = 'Yield of 2025 by floral source';

test('groups and their subtotals are the database’s own, whatever is shown of them', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: DEMO }).click();
  await page.getByRole('link', { name: 'Proof' }).click();
  // High enough for all lines that are looked at.
  await page.setViewportSize({ width: 1280, height: 2_400 });
  const lines = page.getByRole('table', { name: 'Lines of the proof' });
  await expect(lines).toContainText('Floral source: chestnut');
  await accessible(page);
  await page.getByRole('button', { name: /^Single rows/ }).click();
  await page.getByRole('option', { name: 'only groups shown' }).click();
  const apart = await inDemo<{
    floral_source: string | null;
    level: number;
    rows: string;
    kilos: string;
    moisture: string;
    values: string;
  }>(
    `select floral_source, 2 - grouping(floral_source) - grouping(grade) as level, count(*)::text as rows, round(sum(kilos), 1)::text as kilos,
       round(sum(moisture) / count(moisture), 1)::text as moisture, count(moisture)::text as values
     from coop.harvests where picked_on between '2025-04-01' and '2025-09-30' group by rollup (floral_source, grade)`,
  );
  const spaced = (digits: string) => digits.replace(/\B(?=(\d{3})+\.)/g, '\u202f');
  for (const { floral_source: source, level, rows, kilos, moisture, values } of apart.filter((each) => each.level < 2)) {
    const name = level === 0 ? 'Everything' : (source ?? 'without a value');
    await expect(lines.getByRole('row', { name: `${name}, sum ${thin(Number(rows))} rows` })).toContainText(spaced(kilos));
    // An average is over the values there are, not over rows without one.
    const average = lines.getByRole('row', { name: `${name}, average over ${thin(Number(values))} values` });
    await expect(average).toContainText(moisture);
  }
  await expect(lines.getByRole('columnheader', { name: 'Batch number' })).toHaveCount(0);
  // Beside a sum stands which share of everything it is, and it is taken away again.
  await page.getByRole('button', { name: /^Beside total 1/ }).click();
  await page.getByRole('option', { name: 'share of the group above' }).click();
  await expect(lines.getByRole('columnheader', { name: 'share, %' })).toHaveCount(1);
  const [whole] = apart.filter((each) => each.level === 0);
  const lime = apart.find((each) => each.level === 1 && each.floral_source === 'lime');
  const share = ((100 * Number(lime?.kilos)) / Number(whole?.kilos)).toFixed(1);
  await expect(lines.getByRole('row', { name: /^lime, sum/ }).getByRole('cell', { name: share, exact: true })).toBeVisible();
  await accessible(page);
  await page.getByRole('button', { name: 'Without the share of the group above beside total 1' }).click();
  await expect(lines.getByRole('columnheader', { name: 'share, %' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  // Left as it was for the tests that follow.
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Single rows: single rows shown' })).toBeVisible();
  await expect(page.getByText('draft r7, saved')).toBeVisible();
});

test('only what a role allows is totalled, and values are marked', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: DEMO }).click();
  await page.getByRole('link', { name: 'Fields' }).click();
  await sheetLine(page, 'kilos').click();
  await page.getByRole('button', { name: 'Role: measure' }).click();
  await page.getByRole('option', { name: 'code', exact: true }).click();
  await page.getByRole('button', { name: 'Findings' }).click();
  const finding = page.getByRole('complementary', { name: 'Findings' });
  await expect(finding).toContainText('The sum of kilos is not allowed');
  await expect(finding).toContainText('a wrong figure that looks right');
  await finding.getByRole('button', { name: 'Take it out of the proof' }).click();
  await expect(finding).toContainText('No findings.');
  await page.getByRole('link', { name: 'Proof' }).click();
  await expect(page.getByText('Totals:')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Total \d/ })).toHaveText(['average']);
  await expect(page.getByRole('list', { name: 'What the letters mean' })).toHaveText('a: Moisture above 20');
  await expect(page.getByRole('cell', { name: /^2\d\.\d ?a$/ }).first()).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: /^Total \d/ })).toHaveText(['sum', 'average']);
});

test('the print view has every line under its title, and says what was cut', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.addInitScript(() => (window.print = () => undefined));
  await page.reload();
  await page.getByRole('link', { name: 'Datasets' }).click();
  await openWorthDelivering(page);
  await page.getByRole('link', { name: 'Proof' }).click();
  await expect(page.getByRole('button', { name: 'Print' })).toBeEnabled();
  await page.keyboard.press('Control+p');
  const sheet = page.locator('article');
  await expect(sheet).toBeAttached();
  await page.emulateMedia({ media: 'print' });
  await expect(sheet.getByRole('heading', { name: 'Harvests where kilos at least 5' })).toBeVisible();
  await expect(sheet).toContainText(/Printed are the first 5.000 of \d+.\d{3} lines\./);
  await expect(sheet.locator('tr')).toHaveCount(5_001);
  await expect(page.getByRole('navigation', { name: 'Main' })).toBeHidden();
});

test('a proof the server no longer has is made again, and lines that never came are told before printing', async ({ page, signIn }) => {
  await signIn('analyst');
  const asked: string[] = [];
  await page.route(/\/lines\?/, async (route) => {
    asked.push(route.request().url());
    if (asked.length > 1) return route.continue();
    return route.fulfill({ status: 404, contentType: 'application/problem+json', json: { title: 'gone', status: 404, problems: [] } });
  });
  await page.getByRole('link', { name: DEMO }).click();
  await page.getByRole('link', { name: 'Proof' }).click();
  await expect(page.getByRole('table', { name: 'Lines of the proof' })).toContainText('Floral source: chestnut');
  await page.unroute(/\/lines\?/);
  await page.reload();
  await expect(page.getByRole('table', { name: 'Lines of the proof' })).toContainText('Floral source: chestnut');
  await page.route(/\/lines\?offset=[1-9]/, (route) => route.abort());
  await page.getByRole('button', { name: 'Print' }).click();
  await expect(page.getByText('Not all lines could be brought together, so nothing was printed.')).toBeVisible();
  await expect(page.locator('article')).toHaveCount(0);
});

test('days are grouped by month and by year, each read as what it is', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'harvests');
  await page.getByRole('button', { name: 'Take all' }).click();
  await page.getByRole('link', { name: 'Proof' }).click();
  const choose = async (label: string, choice: string) => {
    await page.getByRole('button', { name: new RegExp(`^${label}: `) }).click();
    await page.getByRole('option', { name: choice, exact: true }).click();
  };
  await page.getByRole('button', { name: 'Group by a field' }).click();
  await choose('Field of level 1', 'Picked on');
  await choose('Stretch of level 1', 'year');
  await page.getByRole('button', { name: 'Add a level' }).click();
  await choose('Field of level 2', 'Picked on');
  await choose('Stretch of level 2', 'month');
  await choose('Single rows', 'only groups shown');
  const table = page.getByRole('table', { name: 'Lines of the proof' });
  await expect(table).toContainText('Picked on by year: 2021');
  await expect(table).toContainText('April 2021');
  await choose('Stretch of level 2', 'season');
  await expect(table).toContainText('season of 2021');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(table).toContainText('April 2021');
  await page.getByRole('button', { name: 'Take away' }).press('Escape');
  await accessible(page);
});

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

test('one column per value stands beside its totals, is exchanged with what stands down, and says when it is too much', async ({
  page,
  signIn,
}) => {
  await signIn('analyst');
  await page.getByRole('link', { name: 'Yield by region, season by season' }).click();
  await page.getByRole('link', { name: 'Proof' }).click();
  await page.setViewportSize({ width: 1280, height: 2_400 });
  const lines = page.getByRole('table', { name: 'Lines of the proof' });
  await expect(lines.getByRole('columnheader', { name: '2024', exact: true })).toBeVisible();
  // Thin seasons are marked by a parameter, which the sentence names.
  await expect(page.getByLabel('Value of mark 1')).toHaveValue(':thin');
  await expect(page.getByRole('heading', { name: 'Harvests, sum of kilos marked below 1000' })).toBeVisible();
  await accessible(page);
  const apart = await inDemo<{ region: string | null; of2024: string; whole: string }>(
    `select d.region_code as region, round(sum(h.kilos) filter (where extract(year from h.picked_on) = 2024), 2)::text as of2024, round(sum(h.kilos), 2)::text as whole
     from coop.harvests h join coop.apiaries a on upper(trim(a.code)) = upper(trim(h.apiary_code)) join coop.districts d on d.code = a.district_code group by rollup (1) order by 1 nulls last`,
  );
  const spaced = (digits: string) => digits.replace(/\B(?=(\d{3})+\.)/g, '\u202f');
  const { of2024 = '', whole = '' } = apart.toSorted((a, b) => Number(b.whole) - Number(a.whole))[0] ?? {};
  const everything = lines.getByRole('row', { name: /^Everything .* rows/ });
  await expect(everything).toContainText(spaced(of2024));
  await expect(everything).toContainText(spaced(whole));
  // From a figure to its rows: those of its column, and by keys from the words of a line to any of them.
  const [counted] = await inDemo<{ n: string }>(
    `select count(*) n from coop.harvests h join coop.apiaries a on upper(trim(a.code)) = upper(trim(h.apiary_code)) where extract(year from h.picked_on) = 2024`,
  );
  await everything
    .getByRole('cell', { name: spaced(of2024) })
    .first()
    .click();
  const behind = page.getByRole('dialog', { name: 'Rows of everything' });
  await expect(behind.getByRole('status')).toHaveText(`The first 500 of ${thin(Number(counted?.n))} rows`);
  await expect(behind.getByRole('table', { name: 'Rows behind the figure' }).getByRole('row')).toHaveCount(501);
  await accessible(page);
  await page.keyboard.press('Escape');
  await lines
    .getByRole('row', { name: /without a value/ })
    .getByRole('button', { name: /without a value/ })
    .first()
    .focus();
  await page.keyboard.press('Enter');
  const lost = page.getByRole('dialog', { name: /^Rows of (.*, )?without a value$/ });
  await expect(lost.getByRole('status')).toHaveText(/rows?$/);
  await lost.getByRole('button', { name: 'Column whose rows are shown: all columns' }).click();
  await page.getByRole('option', { name: '2024', exact: true }).click();
  await expect(lost.getByRole('status')).toHaveText(/rows?$/);
  await page.keyboard.press('Escape');
  // A mark of a total stands on the figures of all columns that are over its threshold, and on no others.
  await page.getByRole('button', { name: 'Mark values' }).click();
  await page.getByRole('button', { name: /^What mark 2 stands on/ }).click();
  await page.getByRole('option', { name: 'the sum', exact: true }).click();
  await page.getByLabel('Value of mark 2').fill(of2024.replace(/\.\d+$/, ''));
  await page.keyboard.press('Enter');
  await expect(everything.getByRole('cell', { name: spaced(of2024) }).first()).toHaveClass(/font-bold/);
  const [lime] = await lines.getByRole('row', { name: /^lime/ }).all();
  await expect(lime?.getByRole('cell').nth(1) ?? everything).not.toHaveClass(/font-bold/);
  await page.getByRole('button', { name: 'Take mark 2 away' }).click();
  // Down and across change places, and come back by one undo.
  await page.getByRole('button', { name: 'Exchange down and across' }).click();
  await expect(lines.getByRole('columnheader', { name: 'chestnut', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(lines.getByRole('columnheader', { name: '2024', exact: true })).toBeVisible();
  // Without totals behind, the last column is the last season.
  await page.getByRole('button', { name: /^Totals over the columns/ }).click();
  await page.getByRole('option', { name: 'without totals' }).click();
  await expect(lines.getByRole('columnheader', { name: 'Everything', exact: true })).toHaveCount(0);
  await expect(everything).not.toContainText(spaced(whole));
  await page.getByRole('button', { name: /^Field across/ }).click();
  await page.getByRole('option', { name: 'Id', exact: true }).click();
  await expect(page.getByText('Id has more than 500 values to stand beside one another.')).toBeVisible();
  await page.getByRole('button', { name: 'No columns per Id' }).click();
  await expect(lines.getByRole('columnheader', { name: 'Kilos' })).toHaveCount(1);
});

test('of hundreds of columns those in sight are made, and the groups stay in sight', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('button', { name: 'Paste SQL' }).click();
  await page
    .getByRole('textbox', { name: 'SQL text' })
    .fill("select 'A' || n % 3 as band, 'column ' || lpad(n::text, 3, '0') as part, n * 1.5 as kilos from generate_series(1, 400) n");
  await page.getByRole('button', { name: 'Begin' }).click();
  await expect(page.getByText('It gives 3 fields.')).toBeVisible();
  await page.getByRole('link', { name: 'Proof' }).click();
  await page.getByRole('button', { name: 'Group by a field' }).click();
  await page.getByRole('button', { name: 'One column per value' }).click();
  const lines = page.getByRole('table', { name: 'Lines of the proof' });
  await expect(lines.getByRole('columnheader', { name: 'column 001', exact: true })).toBeVisible();
  expect(await lines.getByRole('columnheader').count()).toBeLessThan(60);
  // Widths may still be measured when it is scrolled for the first time.
  await expect(async () => {
    await lines.evaluate((box) => box.scrollTo({ left: box.scrollWidth }));
    await expect(lines.getByRole('columnheader', { name: 'Everything', exact: true })).toBeInViewport({ timeout: 500 });
  }).toPass();
  await expect(lines.getByRole('columnheader', { name: 'column 001', exact: true })).toHaveCount(0);
  const everything = lines.getByRole('row', { name: /^Everything .* rows/ });
  await expect(everything.getByText('Everything')).toBeInViewport();
  await expect(everything).toContainText(`${thin(120_300)}.0`);
  expect(await lines.getByRole('columnheader').count()).toBeLessThan(60);
});

test('what is off in the rows is found: names written differently, and rows nobody can tell apart', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('button', { name: 'Paste SQL' }).click();
  await page
    .getByRole('textbox', { name: 'SQL text' })
    .fill("select * from (values ('Saltmarsh', 10), ('saltmarsh ', 20), ('Fennick', 7), ('Fennick', 7)) harvests (region, kilos)");
  await page.getByRole('button', { name: 'Begin' }).click();
  await expect(page.getByText('It gives 2 fields.')).toBeVisible();
  await page.getByRole('link', { name: 'Proof' }).click();
  await page.getByRole('button', { name: 'One finding in the rows' }).click();
  const found = page.getByRole('list', { name: 'Findings in the rows' }).getByRole('listitem');
  await expect(found).toHaveText([/2 rows have another that is the same in every field shown\..*counted twice/]);
  await page.getByRole('button', { name: 'Group by a field' }).click();
  await expect(page.getByRole('button', { name: '2 findings in the rows' })).toBeVisible();
  await expect(found.first()).toContainText('“Saltmarsh” and “saltmarsh ”');
  await expect(found.first()).toContainText('two totals');
  const lines = page.getByRole('table', { name: 'Lines of the proof' });
  await expect(lines.getByRole('row').nth(1)).toContainText('Region: Fennick');
  await page.getByRole('button', { name: /^Order of level 1/ }).click();
  await page.getByRole('option', { name: 'by the sum of Kilos, least first' }).click();
  await expect(lines.getByRole('row').nth(1)).toContainText('Region: Saltmarsh');
  await expect(page.getByRole('button', { name: '2 findings in the rows' })).toBeVisible();
  await accessible(page);
});

test('a field that is not taken yet is offered in the sentence, and is taken by being chosen', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'harvests');
  await page.getByRole('button', { name: 'Paste names' }).click();
  await page.getByLabel('Names of fields to take').fill('kilos, floral_source');
  await page.getByRole('button', { name: 'Take them' }).click();
  await page.getByRole('link', { name: 'Proof' }).click();
  await page.getByRole('button', { name: 'Group by a field' }).click();
  await page.getByRole('button', { name: 'Field of level 1: Floral source' }).click();
  await page.getByRole('option', { name: 'Grade, not taken yet' }).click();
  const lines = page.getByRole('table', { name: 'Lines of the proof' });
  await expect(
    lines
      .getByRole('rowheader', { name: /^Grade: A/ })
      .or(lines.getByText(/^Grade: A/))
      .first(),
  ).toBeVisible();
  await expect(page.getByRole('button', { name: 'Field of level 1: Grade' })).toBeVisible();
  // One edit did both, and one undo takes both back.
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Field of level 1: Floral source' })).toBeVisible();
  await expect(lines.getByText(/^Floral source: chestnut/).first()).toBeVisible();
  await page.getByRole('link', { name: 'Bench' }).click();
  await expect(page.getByRole('checkbox', { name: /grade/ })).not.toBeChecked();
});
