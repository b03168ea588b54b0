import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { addStep, newDataset, openWorthDelivering, saved, stamp, thin, trail } from './bench-steps';
import { accessible, expect, inDemo, inDemoSession, test } from './support';

const kept = async (where: string) => Number((await inDemo<{ n: string }>(`select count(*) n from coop.harvests where ${where}`))[0]?.n);

const sentence = (page: Page) => page.getByRole('region', { name: 'Sentence' });

/** A criteria step "kilos at least :min_kilos", made with the keyboard. */
async function askKilos(page: Page): Promise<void> {
  await addStep(page, 'Criteria');
  await page.getByLabel('Field', { exact: true }).fill('kil');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Operator: at least' })).toBeVisible();
  await page.getByLabel('Value for kilos').fill(':min_kilos');
  await page.keyboard.press('Enter');
  await expect(sentence(page)).toContainText('Harvests where kilos at least');
}

async function useValue(page: Page, value: string): Promise<void> {
  await sentence(page)
    .getByRole('button', { name: /^min_kilos/ })
    .click();
  await page.getByLabel('min_kilos', { exact: true }).fill(value);
  await page.keyboard.press('Enter');
}

test('an analyst shapes a dataset from a table to a take-away', async ({ page, signIn }) => {
  await signIn('analyst');
  await accessible(page);
  await newDataset(page);
  await expect(page.getByRole('region', { name: 'Sample rows' })).toContainText('FN-092');
  await accessible(page);

  await page.getByRole('button', { name: 'Paste names' }).click();
  await page.getByLabel('Names of fields to take').fill('id, kilos, honey_colour');
  await page.getByRole('button', { name: 'Take them' }).click();
  await expect(page.getByText('No column of harvests is called honey_colour.')).toBeVisible();
  await expect(page.getByText('taking 2 of 9 fields')).toBeVisible();
  await page.getByRole('button', { name: 'Close' }).click();
  await page.getByRole('button', { name: 'Take all' }).click();
  await page.getByRole('checkbox', { name: 'Take grade' }).click();
  await expect(page.getByText('taking 8 of 9 fields')).toBeVisible();
  await expect(trail(page)).toContainText(thin(12_430));
  await expect(stamp(page)).toContainText(`the first ${thin(1000)} of ${thin(12_430)} rows`);
  await expect(page.getByRole('grid').getByRole('columnheader').first()).toContainText('id');

  await askKilos(page);
  await expect(trail(page)).toContainText(thin(12_430));
  await useValue(page, '5');
  await expect(trail(page)).toContainText(thin(await kept('kilos >= 5')));
  await expect(stamp(page)).toContainText(':min_kilos 5');
  await useValue(page, '30.5');
  await expect(trail(page)).toContainText(thin(await kept('kilos >= 30.5')));
  await accessible(page);

  await useValue(page, 'plenty');
  await expect(page.getByText('“plenty” is no value for :min_kilos.').first()).toBeVisible();
  await expect(page.getByText('a number with at most 6 decimals').first()).toBeVisible();
  await expect(stamp(page)).toContainText('out of date');
  await page.keyboard.press('Escape');
  await useValue(page, '30.5');
  await expect(page.getByText('is no value for')).toHaveCount(0);
  await expect(stamp(page).getByText('out of date')).toHaveCount(0);

  await page.getByRole('link', { name: 'Proof' }).click();
  await expect(page.getByRole('heading', { name: 'Harvests where kilos at least 30.5' })).toBeVisible();
  await expect(page.getByText(`${thin(await kept('kilos >= 30.5'))} rows, complete`)).toBeVisible();
  await expect(page.getByRole('columnheader', { name: 'Apiary code' })).toBeVisible();
  await accessible(page);
  await page.getByRole('button', { name: 'Take away' }).click();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('menuitem', { name: 'CSV' }).click()]);
  const lines = readFileSync(await download.path(), 'utf8')
    .trimEnd()
    .split('\n');
  expect(lines[0]).toBe('id,kilos,apiary_code,picked_on,weighed_at,moisture,floral_source,batch');
  expect(lines).toHaveLength((await kept('kilos >= 30.5')) + 1);
});

test('a field that is not taken is for use only', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page);
  await page.getByRole('checkbox', { name: 'Take batch' }).click();
  await addStep(page, 'Criteria');
  await page.getByLabel('Field', { exact: true }).fill('gra');
  await expect(page.getByRole('option', { name: /grade/ })).toContainText('for use only');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await page.getByLabel('Value for grade').fill('A');
  await page.keyboard.press('Enter');
  await expect(trail(page)).toContainText(thin(await kept("grade = 'A'")));
  await expect(page.getByRole('grid').getByRole('columnheader')).toHaveText([/^batch.*text/]);
  await trail(page)
    .getByRole('button', { name: /^harvests/ })
    .click();
  await expect(page.getByRole('list', { name: 'Fields' }).getByRole('listitem').filter({ hasText: 'grade' })).toContainText('for use only');
});

test('blank has three meanings, each with its sentence and its statement', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page);
  await page.getByRole('button', { name: 'Take all' }).click();
  await askKilos(page);
  await page.getByRole('button', { name: 'The statement it makes' }).click();
  const statement = page.getByLabel('Statement', { exact: true });
  await expect(sentence(page)).toContainText('(condition is off)');
  await expect(statement).not.toContainText('where');
  await expect(trail(page)).toContainText(thin(12_430));

  await page.getByRole('button', { name: 'Parameters' }).click();
  await accessible(page);
  const meaning = async (from: string, to: string) => {
    await page.getByRole('button', { name: `Left blank: ${from}` }).click();
    await page.getByRole('option', { name: to }).click();
  };
  await meaning('condition is off', 'matches empty');
  await expect(sentence(page)).toContainText('(matches empty)');
  await expect(statement).toContainText('"kilos" is null');
  await expect(trail(page)).toContainText(thin(await kept('kilos is null')));
  await meaning('matches empty', 'must be filled');
  await expect(page.getByText(':min_kilos must be filled.').first()).toBeVisible();
  await expect(page.getByText('A parameter needs another value first').or(stamp(page).getByText('out of date'))).toBeVisible();
  await useValue(page, '7');
  await expect(statement).toContainText('"kilos" >= :min_kilos::numeric');
  await expect(statement).toContainText('-- :min_kilos: decimal, here 7');
});

test('everything can be undone and redone, survives a reload, and a wrong expression is kept as typed', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page);
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Criteria');
  await page.getByLabel('Field', { exact: true }).fill("kilos >= 'lots'");
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert')).toContainText('cannot be compared with a text');
  // Whether the step ran once before it was wrong depends on how fast one types.
  await expect(stamp(page)).toContainText(/cannot run before its errors are mended|out of date/);
  await saved(page, 4);
  await page.reload();
  await expect(page.getByLabel('Expression')).toHaveValue("kilos >= 'lots'");
  await page.getByLabel('Expression').fill('kilos >= 40 and grade <> moisture');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert')).toContainText('A text cannot be compared with a decimal(4,1).');
  await page.getByLabel('Expression').fill('kilos >= 40 and moisture < 18');
  await page.keyboard.press('Enter');
  await expect(trail(page)).toContainText(thin(await kept('kilos >= 40 and moisture < 18')));

  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByLabel('Expression')).toHaveValue('kilos >= 40 and grade <> moisture');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByLabel('Expression')).toHaveValue("kilos >= 'lots'");
  await page.getByRole('button', { name: 'Redo' }).click();
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(page.getByLabel('Expression')).toHaveValue('kilos >= 40 and moisture < 18');
  await expect(page.getByRole('button', { name: 'Redo' })).toBeDisabled();
  await page.getByRole('button', { name: 'History' }).click();
  await expect(page.getByRole('complementary', { name: 'History' })).toContainText('began the dataset');
  await accessible(page);
});

test('two tabs edit one dataset and nothing is lost', async ({ page, signIn, context }) => {
  await signIn('analyst');
  await newDataset(page);
  await page.getByRole('button', { name: 'Take all' }).click();
  await saved(page, 2);
  const other = await context.newPage();
  await other.goto(page.url());
  await expect(other.getByText('taking 9 of 9 fields')).toBeVisible();

  await other.getByRole('button', { name: 'Take none' }).click();
  await expect(page.getByText('taking 0 of 9 fields')).toBeVisible();
  await page.getByLabel('Title of the dataset').fill('Picked in two tabs');
  await page.keyboard.press('Enter');
  await expect(other.getByLabel('Title of the dataset')).toHaveValue('Picked in two tabs');

  // Both change the same place while one of them cannot reach the server.
  await other.route('**/api/**', (route) => route.abort());
  await other.getByRole('checkbox', { name: 'Take kilos' }).click();
  await expect(other.getByText('not saved yet')).toBeVisible();
  await page.getByRole('checkbox', { name: 'Take batch' }).click();
  await saved(page, 5);
  await other.unroute('**/api/**');
  // They are of one person: one follows the other, and both fields are taken.
  await expect(page.getByText('taking 2 of 9 fields')).toBeVisible();
  await expect(other.getByText('taking 2 of 9 fields')).toBeVisible();
  await expect(page.getByRole('checkbox', { name: 'Take kilos' })).toBeChecked();
  await expect(page.getByRole('checkbox', { name: 'Take batch' })).toBeChecked();
});

test('an edit made while the server is away survives closing the tab', async ({ page, signIn, context }) => {
  await signIn('analyst');
  await newDataset(page);
  const address = page.url();
  await page.route('**/api/datasets/*/edits', (route) => route.abort());
  await page.getByRole('button', { name: 'Take all' }).click();
  await expect(page.getByText('not saved yet')).toBeVisible();
  await page.close();
  const again = await context.newPage();
  await again.goto(address);
  await expect(again.getByText('taking 9 of 9 fields')).toBeVisible();
  await saved(again, 2);
});

test('a long run shows its progress and can be stopped while the page goes on', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'scale_readings');
  await page.getByRole('button', { name: 'Take all' }).click();
  // Otherwise the run of the table alone might be the one that is stopped.
  await expect(trail(page)).toContainText(thin(240_000));
  await expect(page.getByRole('button', { name: 'Stop' })).toHaveCount(0);
  await addStep(page, 'Criteria');
  // The step without a clause runs as well, and is counted.
  await expect(trail(page).getByText(thin(240_000))).toHaveCount(2);
  await expect(page.getByRole('button', { name: 'Stop' })).toHaveCount(0);
  const heavy = Array.from({ length: 300 }, (_, at) => `(reading_no * ${at + 2} / 7) <> ${at}.5`).join(' and ');
  await page.getByLabel('Field', { exact: true }).fill(heavy);
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Stop' }).click();
  await expect(page.getByRole('button', { name: 'Stop' })).toHaveCount(0);
  // Where it was stopped decides what there is to say.
  await expect(stamp(page)).toContainText(/counting was stopped|The run was stopped/);
  await page.getByRole('button', { name: 'Get all rows' }).click();
  await page.getByRole('button', { name: 'Stop' }).click();
  await expect(stamp(page).getByText(/^Getting all rows was stopped.*; shown is what was there before\.$/)).toBeVisible();
  await page.getByRole('link', { name: 'Runs' }).click();
  await expect(page.getByRole('row').nth(1)).toContainText('cancelled');
  await accessible(page);
});

test('a column retyped in the source can be taken over, and one renamed there read instead', async ({ page, signIn }) => {
  await inDemo(
    'create table coop.samples (id int primary key, amount numeric(6,2)); insert into coop.samples values (1, 2.5); grant select on coop.samples to cendra_read',
  );
  await signIn('analyst');
  await newDataset(page, 'samples');
  await page.getByRole('button', { name: 'Take all' }).click();
  await expect(stamp(page)).toContainText('all 1 rows');
  await inDemo('alter table coop.samples alter amount type text using amount::text');
  await page.reload();
  await expect(page.getByText('The column amount of samples was numeric(6,2) and is now text.')).toBeVisible();
  await page.getByRole('button', { name: 'Take the new types over' }).click();
  await expect(stamp(page)).toContainText('all 1 rows');

  await inDemo('alter table coop.samples rename amount to weight');
  await page.reload();
  await expect(page.getByText('The column amount of samples is gone.').first()).toBeVisible();
  await page.getByRole('button', { name: 'Read other columns instead …' }).click();
  await expect(page.getByRole('status').filter({ hasText: 'amount has no column there' })).toBeVisible();
  await page.getByRole('button', { name: 'Column for amount: no column' }).click();
  await page.getByRole('option', { name: 'weight' }).click();
  await accessible(page);
  await page.getByRole('button', { name: 'Read samples' }).click();
  await expect(stamp(page)).toContainText('all 1 rows');

  await inDemo('drop table coop.samples');
  await page.reload();
  await expect(page.getByText('The source has no table coop.samples')).toBeVisible();
});

test('the first rows of all are looked at while the rest is on its way', async ({ page, signIn }) => {
  // Its rows stop in the middle for as long as somebody holds the lock.
  await inDemo(`create or replace view coop.long_letters as select i as no, repeat('x', 100) as letter from generate_series(1, 40000) i
    where i <> 30000 or pg_advisory_lock_shared(4711)::text is not null; grant select on coop.long_letters to cendra_read`);
  await signIn('analyst');
  await newDataset(page, 'long_letters');
  await page.getByRole('button', { name: 'Take all' }).click();
  await expect(stamp(page)).toContainText(`the first ${thin(1_000)} of ${thin(40_000)} rows`);
  await inDemoSession(async (client) => {
    await client.query('select pg_advisory_lock(4711)');
    await stamp(page).getByRole('button', { name: 'Get all rows' }).click();
    const many = /the first ([\d\u202f]+) rows, the rest is on its way/;
    await expect(stamp(page)).toContainText(many);
    const [, last = ''] = many.exec((await stamp(page).textContent()) ?? '') ?? [];
    await expect(stamp(page).getByText('out of date')).toHaveCount(0);
    await page.getByRole('grid').focus();
    await page.keyboard.press('Control+End');
    await expect(page.getByRole('gridcell', { name: last, exact: true })).toBeVisible();
    await accessible(page);
  });
  await expect(stamp(page)).toContainText(`all ${thin(40_000)} rows`);
  await page.keyboard.press('Control+End');
  await expect(page.getByRole('gridcell', { name: thin(40_000), exact: true })).toBeVisible();
  await inDemo('drop view coop.long_letters');
});

test('the palette goes to places by name, with the keyboard alone', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.keyboard.press('Control+k');
  await page.getByRole('combobox', { name: 'Go to' }).fill('worth bench');
  await page.getByRole('combobox', { name: 'Go to' }).fill('worth delivering');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Title of the dataset')).toHaveValue('Harvests worth delivering');
  await expect(page.getByRole('grid')).toBeVisible();
  await page.getByRole('grid').focus();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('End');
  await expect(page.getByRole('grid')).toHaveAttribute('aria-activedescendant', 'cell-1-6');
});

test('a step is dragged along its lane, and told where it cannot stand', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page);
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Criteria');
  await page.getByLabel('Field', { exact: true }).fill('kilos >= 5');
  await page.keyboard.press('Enter');
  await addStep(page, 'Criteria');
  await page.getByLabel('Field', { exact: true }).last().fill('moisture < 18');
  await page.keyboard.press('Enter');
  const lines = trail(page).getByRole('listitem');
  await expect(lines).toHaveText([/^.*harvests/, /kilos >= 5/, /moisture < 18/]);
  const drag = async (from: number, to: number) => {
    const [a, b] = [await lines.nth(from).boundingBox(), await lines.nth(to).boundingBox()];
    if (!a || !b) throw new Error('the lines are in sight');
    await page.mouse.move(a.x + 120, a.y + a.height / 2);
    await page.mouse.down();
    await page.mouse.move(a.x + 120, a.y + a.height / 2 - 12, { steps: 3 });
    await page.mouse.move(b.x + 120, b.y + b.height / 2, { steps: 8 });
    await page.mouse.up();
  };
  await drag(2, 1);
  await expect(lines).toHaveText([/^.*harvests/, /moisture < 18/, /kilos >= 5/]);
  await drag(2, 0);
  await expect(trail(page).getByText(/kilos >= 5 cannot stand there/)).toBeVisible();
  await accessible(page);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(lines).toHaveText([/^.*harvests/, /kilos >= 5/, /moisture < 18/]);
});

test('a question mark and F1 tell keys and words, and a question mark that is typed stays one', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('heading', { name: 'Datasets' }).click();
  await page.keyboard.press('?');
  const help = page.getByRole('dialog', { name: 'Keys and words' });
  await expect(help.getByText('Rows that would come back if this clause alone were taken out.')).toBeVisible();
  await expect(help.getByText('add a step behind the selected one')).toBeVisible();
  await accessible(page);
  await page.keyboard.press('Escape');
  await expect(help).toHaveCount(0);
  await page.getByLabel('Find a dataset').fill('');
  await page.getByLabel('Find a dataset').press('?');
  await expect(page.getByLabel('Find a dataset')).toHaveValue('?');
  await page.keyboard.press('F1');
  await expect(help.getByText('add a step behind the selected one')).toBeVisible();
});

test('Ctrl+K finds tables, and fields and parameters of the open dataset', async ({ page, signIn }) => {
  await signIn('analyst');
  await openWorthDelivering(page);
  const goTo = async (part: string, goal: string | RegExp) => {
    await page.keyboard.press('Control+k');
    await page.getByRole('combobox', { name: 'Go to' }).fill(part);
    await page.getByRole('option').filter({ hasText: goal }).first().click();
  };
  await goTo('min_kilos', /:min_kilos\s*parameter/);
  await expect(page.getByRole('group', { name: 'Parameter min_kilos' })).toBeVisible();
  await goTo('moisture', /moisture\s*field/);
  await expect(page).toHaveURL(/\/fields\?field=/);
  await goTo('inspect', /coop\.inspections\s*table of Cooperative database/);
  await expect(page.getByRole('article', { name: 'Table inspections' })).toBeVisible();
});
