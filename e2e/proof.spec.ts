import { newDataset, newDatasetWith, pastedSql, sheetLine, thin } from './bench-steps';
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
    // An average is over the values there are, not over rows without one.
    const over = `${thin(Number(rows))} rows${values === rows ? '' : `, averages over ${thin(Number(values))} values`}`;
    const figures = lines.getByRole('row', { name: `${name} ${over}` }).getByRole('cell');
    await expect(figures.filter({ hasText: spaced(kilos) })).toHaveCount(1);
    await expect(figures.filter({ hasText: new RegExp(`^${moisture}`) })).toHaveCount(1);
  }
  await expect(lines.getByRole('columnheader', { name: 'Batch number' })).toHaveCount(0);
  // Beside a sum stands which share of everything it is, and it is taken away again.
  await page.getByRole('button', { name: /^Beside total 1/ }).click();
  await page.getByRole('option', { name: 'share of the group above' }).click();
  await expect(lines.getByRole('columnheader', { name: 'share, %' })).toHaveCount(1);
  const [whole] = apart.filter((each) => each.level === 0);
  const lime = apart.find((each) => each.level === 1 && each.floral_source === 'lime');
  const share = ((100 * Number(lime?.kilos)) / Number(whole?.kilos)).toFixed(1);
  await expect(lines.getByRole('row', { name: /^lime \d/ }).getByRole('cell', { name: share, exact: true })).toBeVisible();
  await accessible(page);
  await page.getByRole('button', { name: 'Without the share of the group above beside total 1' }).click();
  await expect(lines.getByRole('columnheader', { name: 'share, %' })).toHaveCount(0);
  // Totals stand before what they are of, where that is asked for.
  await page.getByRole('button', { name: /^Grand total/ }).click();
  await page.getByRole('option', { name: 'grand total before' }).click();
  await expect(lines.getByRole('row').nth(1)).toContainText(`Everything ${thin(Number(whole?.rows))} rows`);
  await page.getByRole('button', { name: 'Subtotals of level 1: with subtotals' }).click();
  await page.getByRole('option', { name: 'with subtotals before', exact: true }).click();
  await expect(lines.getByRole('row').nth(3)).toHaveText(/^chestnut/);
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  // Left as it was for the tests that follow.
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Single rows: single rows shown' })).toBeVisible();
  await expect(page.getByText('draft r11, saved')).toBeVisible();
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

test('where something is left out by a key, what stands beside it has the focus', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: DEMO }).click();
  await page.getByRole('link', { name: 'Proof' }).click();
  await page.getByRole('button', { name: 'Leave out the average of Moisture' }).press('Enter');
  await expect(page.getByRole('button', { name: 'Add a total' })).toBeFocused();
  await page.getByRole('button', { name: 'Take mark 2 away' }).press('Enter');
  await expect(page.getByRole('button', { name: 'Mark values' })).toBeFocused();
  for (let at = 0; at < 2; at++) await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Take mark 2 away' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Leave out the average of Moisture' })).toBeVisible();
});

test('rows that lie above the average of their group are marked, and those below another field', async ({ page, signIn }) => {
  await signIn('analyst');
  await pastedSql(page, "select * from (values ('A', 10, 9), ('A', 20, 30), ('B', 100, 1)) lots (grade, kilos, sold)", 3);
  await page.getByRole('link', { name: 'Proof' }).click();
  await page.getByRole('button', { name: 'Group by a field' }).click();
  const table = page.getByRole('table', { name: 'Lines of the proof' });
  await expect(table).toContainText('Grade: A');
  const choose = async (slot: RegExp, choice: string) => {
    await page.getByRole('button', { name: slot }).click();
    await page.getByRole('option', { name: choice, exact: true }).click();
  };
  await page.getByRole('button', { name: 'Mark values' }).click();
  await choose(/^Field of mark 1/, 'Kilos');
  await choose(/^What mark 1 compares with/, 'the average of its group');
  const bold = async () => (await table.locator('[role=cell].font-bold').allTextContents()).map((each) => each.trim());
  await expect.poll(bold).toEqual(['20']);
  await choose(/^What mark 1 compares with/, 'Sold');
  await expect.poll(bold).toEqual(['10', '100']);
  // On totals it is the same total of the other.
  await choose(/^What mark 1 stands on/, 'the sum');
  await expect.poll(bold).toEqual(['100', '130']);
  await accessible(page);
});

test('the print view has every line under its title; what is too long for it comes as pages', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.addInitScript(() => (window.print = () => undefined));
  await page.reload();
  await newDataset(page, 'harvests');
  await page.getByRole('button', { name: 'Take all' }).click();
  await page.getByRole('link', { name: 'Proof' }).click();
  await page.getByRole('button', { name: 'Group by a field' }).click();
  await expect(page.getByRole('table', { name: 'Lines of the proof' })).toContainText(/\d rows/);
  // More lines than a browser lays out.
  await page.keyboard.press('Control+p');
  const opened = page.getByRole('link', { name: /^Open the pages of \d+.\d{3} lines to print them$/ });
  await expect(opened).toHaveAttribute('href', /^blob:/);
  await expect(page.locator('article')).toHaveCount(0);
  await accessible(page);
  await page.getByRole('button', { name: /^Single rows/ }).click();
  await page.getByRole('option', { name: 'only groups shown' }).click();
  await expect(opened).toHaveCount(0);
  const table = page.getByRole('table', { name: 'Lines of the proof' });
  await expect(table.getByRole('row', { name: /^chestnut/ })).toBeVisible();
  await page.keyboard.press('Control+p');
  const sheet = page.locator('article');
  await expect(sheet).toBeAttached();
  const rows = Number(await table.getAttribute('aria-rowcount'));
  await page.emulateMedia({ media: 'print' });
  await expect(sheet.getByRole('heading', { name: 'Harvests' })).toBeVisible();
  await expect(sheet).toContainText('asked by Barnaby Quill.');
  await expect(sheet.locator('tr')).toHaveCount(rows);
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
  await newDataset(page, 'members');
  await page.getByRole('button', { name: 'Take all' }).click();
  await page.getByRole('link', { name: 'Proof' }).click();
  await expect(page.getByRole('table', { name: 'Lines of the proof' })).toContainText('M0001');
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
  // Months without harvests, in the year they belong to.
  await page.setViewportSize({ width: 1280, height: 1_600 });
  await expect(table).not.toContainText('November 2021');
  await page.getByRole('button', { name: 'More of level 2' }).click();
  await choose('Groups of level 2 without rows', 'also each month between');
  await expect(table.getByRole('row', { name: /^November 2021/ }).first()).toContainText('0 rows');
  await expect(table).not.toContainText('March 2021');
  await choose('Groups of level 2 without rows', 'with rows only');
  await choose('Stretch of level 2', 'season');
  await expect(table).toContainText('season of 2021');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(table).toContainText('April 2021');
  await page.getByRole('button', { name: 'Take away' }).press('Escape');
  await accessible(page);
});

test('what is off in the rows is found: names written differently, and rows nobody can tell apart', async ({ page, signIn }) => {
  await signIn('analyst');
  await pastedSql(
    page,
    "select * from (values ('Saltmarsh', 10), ('saltmarsh ', 20), ('Fennick', 7), ('Fennick', 7)) harvests (region, kilos)",
    2,
  );
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

test('people are told apart by number and shown by name, with what is the same in all of their rows', async ({ page, signIn }) => {
  await signIn('analyst');
  await pastedSql(
    page,
    "select * from (values (7, 'Ada Brook', 'Utter', 'UT-1', 10), (7, 'Ada Brook', 'Utter', 'UT-1', 4), (9, 'Ada Brook', 'Fennick', 'FN-1', 5), (3, 'Odo Larkin', 'Fennick', 'FN-2', 6)) stands (member_id, member_name, region, district, kilos)",
    5,
  );
  await page.getByRole('link', { name: 'Proof' }).click();
  const choose = async (label: string, choice: string) => {
    await page.getByRole('button', { name: new RegExp(`^${label}: `) }).click();
    await page.getByRole('option', { name: choice, exact: true }).click();
  };
  await page.getByRole('button', { name: 'Group by a field' }).click();
  await choose('Field of level 1', 'Member id');
  await choose('Single rows', 'only groups shown');
  await page.getByRole('button', { name: 'More of level 1' }).click();
  await choose('Shown field of level 1', 'Member name');
  await choose('At the head of level 1', 'Region');
  const rows = page.getByRole('table', { name: 'Lines of the proof' }).getByRole('row');
  await expect(rows).toContainText([
    /^/,
    /^Ada Brook · Region: Utter/,
    /^Ada Brook · Region: Fennick/,
    /^Odo Larkin · Region: Fennick/,
    /^Everything/,
  ]);
  await page.getByRole('button', { name: 'One finding in the rows' }).click();
  await expect(page.getByRole('list', { name: 'Findings in the rows' })).toContainText(
    'Groups of member_id are shown by one name: “Ada Brook” is the member_name of “7” and “9”.',
  );
  await accessible(page);
  await page.getByRole('button', { name: 'Without Region at the head of level 1' }).click();
  await expect(rows.nth(1)).toContainText(/^Ada Brook(?! ·)/);
  // A district lies in one region, so it belongs below it: one press.
  await choose('Field of level 1', 'District');
  await page.getByRole('button', { name: 'Add a level' }).click();
  await choose('Field of level 2', 'Region');
  await page.getByRole('button', { name: 'Exchange the two levels' }).click();
  await expect(page.getByRole('button', { name: 'Field of level 1: Region' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Field of level 2: District' })).toBeVisible();
});

test('a field that is not taken yet is offered in the sentence, and is taken by being chosen', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDatasetWith(page, 'harvests', 'kilos, floral_source');
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

test('an expression is a field of the proof: it is calculated in the dataset, behind everything', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDatasetWith(page, 'harvests', 'kilos, grade');
  await page.getByRole('link', { name: 'Proof' }).click();
  await page.getByRole('button', { name: 'Group by a field' }).click();
  const write = async (slot: string, text: string) => {
    await page.getByRole('button', { name: new RegExp(`^${slot}: `) }).click();
    await page.getByRole('option', { name: 'an expression …' }).click();
    await page.getByRole('textbox', { name: `Expression for ${slot.charAt(0).toLowerCase()}${slot.slice(1)}` }).fill(text);
  };
  await write('Field of level 1', 'lower(grade) + 1');
  await expect(page.getByRole('status').filter({ hasText: 'text' })).toBeVisible();
  await accessible(page);
  const slot = page.getByRole('textbox', { name: 'Expression for field of level 1' });
  await slot.fill('lower(grade)');
  await slot.press('Enter');
  const lines = page.getByRole('table', { name: 'Lines of the proof' });
  await expect(lines.getByText(/^Lower grade: a/).first()).toBeVisible();
  await write('Field of total 1', 'kilos * 2');
  await page.getByRole('textbox', { name: 'Expression for field of total 1' }).press('Enter');
  await expect(page.getByRole('button', { name: 'Field of total 1: Kilos 2' })).toBeVisible();
  await expect(lines.getByRole('columnheader', { name: 'Kilos 2' })).toBeVisible();
  await page.getByRole('link', { name: 'Bench' }).click();
  await expect(page.getByRole('region', { name: 'Trail' })).toContainText('with lower_grade and kilos_2');
  await page.getByRole('link', { name: 'Proof' }).click();
  // Each is one edit, and one undo takes it back with its field.
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Field of level 1: Grade' })).toBeVisible();
  // Nothing written is nothing changed.
  await write('Field of level 1', '');
  await page.getByRole('textbox', { name: 'Expression for field of level 1' }).press('Escape');
  await expect(page.getByRole('button', { name: 'Field of level 1: Grade' })).toBeVisible();
});

test('what is marked, compared with, drawn and told at a head may be an expression or a field not taken yet', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDatasetWith(page, 'harvests', 'kilos, grade');
  await page.getByRole('link', { name: 'Proof' }).click();
  const choose = async (label: string, choice: string) => {
    await page.getByRole('button', { name: new RegExp(`^${label}: `) }).click();
    await page.getByRole('option', { name: choice, exact: true }).click();
  };
  const write = async (label: string, text: string) => {
    await choose(label, 'an expression …');
    const slot = page.getByRole('textbox', { name: `Expression for ${label.charAt(0).toLowerCase()}${label.slice(1)}` });
    await slot.fill(text);
    await slot.press('Enter');
  };
  await page.getByRole('button', { name: 'Group by a field' }).click();
  await page.getByRole('button', { name: 'More of level 1' }).click();
  await choose('At the head of level 1', 'Floral source, not taken yet');
  const lines = page.getByRole('table', { name: 'Lines of the proof' });
  await expect(lines.getByText(/^Grade: A · several of Floral source/).first()).toBeVisible();
  await page.getByRole('button', { name: 'Mark values' }).click();
  await write('Field of mark 1', 'kilos - 10');
  await expect(page.getByRole('button', { name: 'Field of mark 1: Kilos 10' })).toBeVisible();
  await write('What mark 1 compares with', 'kilos / 2');
  await expect(page.getByRole('button', { name: 'What mark 1 compares with: Kilos 2' })).toBeVisible();
  await expect(lines.locator('[role=cell].font-bold').first()).toBeVisible();
  await page.getByRole('button', { name: 'Draw it' }).click();
  await write('Field that is drawn', 'kilos * 3');
  await expect(page.getByRole('button', { name: 'Field that is drawn: Kilos 3' })).toBeVisible();
  await expect(page.getByRole('figure', { name: /Kilos 3/ })).toBeVisible();
  await accessible(page);
  await page.getByRole('link', { name: 'Bench' }).click();
  await expect(page.getByRole('region', { name: 'Trail' })).toContainText('with kilos_10, kilos_2 and kilos_3');
});

test('a row behind a figure is followed through the trail', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'members');
  await page.getByRole('button', { name: 'Take all' }).click();
  await page.getByRole('link', { name: 'Proof' }).click();
  await page.getByRole('button', { name: 'Group by a field' }).click();
  const table = page.getByRole('table', { name: 'Lines of the proof' });
  await table.getByRole('button', { name: /^First name: Ambrose/ }).click();
  const behind = page.getByRole('dialog', { name: 'Rows of Ambrose' });
  await expect(behind.getByRole('row').nth(2)).toContainText('M0022');
  await accessible(page);
  await behind.getByRole('button', { name: 'Follow, row 2', exact: true }).click();
  const followed = page.getByRole('region', { name: 'Followed row' });
  await expect(followed).toContainText('M0022');
  // Coming back to the bench later follows nothing anew.
  await page.getByRole('link', { name: 'Proof' }).click();
  await expect(table).toBeVisible();
  await page.goBack();
  await expect(page.getByRole('region', { name: 'Trail' })).toBeVisible();
  await expect(followed).toHaveCount(0);
});
