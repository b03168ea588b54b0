import ExcelJS from 'exceljs';
import { sheetLine, stamp, thin } from './bench-steps';
import { press, tabTo } from './keyboard';
import { expect, inDemo, test } from './support';

test('the harvests of a season go from nothing to a spreadsheet with the keyboard alone', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.keyboard.press('Control+k');
  await page.getByRole('combobox', { name: 'Go to' }).waitFor();
  await page.keyboard.type('cooperative source');
  await page.keyboard.press('Enter');
  await tabTo(page, page.getByLabel('Part of a table’s name'));
  await page.keyboard.type('harvests');
  await press(page, page.getByRole('button', { name: 'coop.harvests' }));
  await press(page, page.getByRole('button', { name: 'Start a dataset from it' }));
  await press(page, page.getByRole('button', { name: 'Take all' }));
  await expect(page.getByText('taking 9 of 9 fields')).toBeVisible();

  // The season, as an expression typed into the empty clause.
  await press(page, page.getByRole('button', { name: 'Add a step' }));
  await page.getByRole('menuitem', { name: 'Criteria' }).waitFor();
  await page.keyboard.type('cri');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Field', { exact: true })).toBeFocused();
  await page.keyboard.type("picked_on >= date '2025-04-01' and picked_on < date '2025-10-01'");
  await page.keyboard.press('Enter');
  const [season] = await inDemo<{ rows: string; kilos: string }>(
    "select count(*) rows, sum(kilos)::text kilos from coop.harvests where picked_on between '2025-04-01' and '2025-09-30'",
  );
  await expect(stamp(page)).toContainText(`of ${thin(Number(season?.rows))} rows`);

  // Named, in its unit, and first of all.
  await press(page, page.getByRole('link', { name: 'Fields' }));
  await tabTo(page, sheetLine(page, 'id'));
  const kilos = sheetLine(page, 'kilos');
  for (let line = 0; line < 4; line++) await page.keyboard.press('ArrowDown');
  await expect(kilos).toBeFocused();
  for (let line = 0; line < 4; line++) await page.keyboard.press('Alt+ArrowUp');
  await expect(page.getByRole('list', { name: 'Fields handed over' }).getByRole('listitem').first()).toContainText('kilos');
  await expect(kilos).toBeFocused();
  await tabTo(page, page.getByLabel('Label', { exact: true }));
  await page.keyboard.type('Net weight');
  await page.keyboard.press('Enter');
  await tabTo(page, page.getByLabel('Unit'));
  await page.keyboard.type('kg');
  await page.keyboard.press('Enter');

  await press(page, page.getByRole('link', { name: 'Proof' }));
  await expect(page.getByRole('columnheader', { name: 'Net weight, kg' })).toBeVisible();
  await press(page, page.getByRole('button', { name: 'Group by a field' }));
  await expect(page.getByRole('group', { name: 'Level 1' })).toContainText('Floral source');
  const lines = page.getByRole('table', { name: 'Lines of the proof' });
  await expect(lines).toContainText('Floral source: chestnut');
  await tabTo(page, lines);
  await page.keyboard.press('End');
  await expect(lines).toContainText('Everything, sum');
  await tabTo(page, page.getByRole('button', { name: 'Take away' }));
  await page.keyboard.press('Enter');
  await page.getByRole('menuitem', { name: 'Spreadsheet, XLSX' }).waitFor();
  const [download] = await Promise.all([page.waitForEvent('download'), page.keyboard.press('Enter')]);

  const workbook = new ExcelJS.Workbook();
  await workbook.xlsx.readFile(await download.path());
  const [sheet] = workbook.worksheets;
  expect(sheet?.getCell('A1').value).toBe('Net weight, kg');
  expect(sheet?.rowCount).toBe(Number(season?.rows) + 1);
  const weights = (sheet?.getColumn(1).values ?? []).slice(2).map((each) => Math.round(Number(each ?? 0) * 100));
  expect(weights.reduce((sum, each) => sum + each, 0)).toBe(Math.round(Number(season?.kilos) * 100));
});
