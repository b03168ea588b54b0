import type { Page } from '@playwright/test';
import { addStep, newDataset, stamp, trail } from './bench-steps';
import { accessible, expect, inDemo, test } from './support';

async function openProcedure(page: Page, name: string): Promise<void> {
  await page.getByRole('link', { name: 'Sources' }).click();
  await page.getByRole('link', { name: 'Cooperative database' }).click();
  await page.getByRole('tab', { name: 'Procedures' }).click();
  await page.getByRole('textbox', { name: 'Part of a procedure’s name' }).fill(name);
  await page.getByRole('button', { name: new RegExp(name) }).click();
  await expect(page.getByRole('article')).toBeVisible();
}

async function fill(page: Page, parameter: string, value: string): Promise<void> {
  await page
    .getByRole('button', { name: new RegExp(`^${parameter}`) })
    .first()
    .click();
  await page.getByLabel(parameter, { exact: true }).fill(value);
  await page.getByLabel(parameter, { exact: true }).press('Enter');
  await expect(page.getByRole('button', { name: `${parameter}: ${value}`, exact: true })).toBeVisible();
}

const fields = (page: Page) => page.getByRole('table', { name: 'Fields of the function' });

test('a function is found, read, and begins a dataset with its arguments as parameters', async ({ page, signIn }) => {
  await signIn('analyst');
  await openProcedure(page, 'member_settlement');
  await expect(page.getByLabel('How member_settlement is written')).toContainText('round(d.kilos * min(p.price), 2)');
  await accessible(page);
  await page.getByRole('button', { name: 'Start a dataset from it' }).click();
  await expect(trail(page)).toBeVisible();
  await page.getByRole('button', { name: 'Take all' }).click();
  await fill(page, 'member', '7');
  await fill(page, 'season', '2024');
  const [expected] = await inDemo<{ n: string }>('select count(*) n from coop.member_settlement(7, 2024)');
  await expect(stamp(page)).toContainText(`all ${expected?.n} rows`);
  await accessible(page);
  // A value typed once takes the place of a parameter, which is asked for no longer.
  await page.getByRole('button', { name: 'What season is given: :season' }).click();
  await page.getByRole('option', { name: 'a value …' }).click();
  await page.getByLabel('Value for season').fill('2023');
  await page.keyboard.press('Enter');
  const [other] = await inDemo<{ n: string }>('select count(*) n from coop.member_settlement(7, 2023)');
  await expect(stamp(page)).toContainText(`all ${other?.n} rows`);
  await expect(page.getByRole('button', { name: 'What season is given: 2023' })).toBeVisible();
  await page.getByRole('button', { name: 'The statement it makes' }).click();
  await expect(page.getByLabel('Statement', { exact: true })).toContainText('(:member)::integer as v1');
  await page.getByRole('button', { name: 'What season is given: 2023' }).click();
  await page.getByRole('option', { name: 'a value …' }).click();
  await page.getByLabel('Value for season').fill('last');
  await page.keyboard.press('Enter');
  await expect(page.getByText('“last” is no value for season.')).toBeVisible();
});

test('a function that nobody declared as reading runs once a steward says so', async ({ page, signIn }) => {
  await signIn('analyst');
  await openProcedure(page, 'best_apiaries');
  await expect(page.getByText('It does not run here until a steward lets it.')).toBeVisible();
  await page.getByRole('button', { name: 'Start a dataset from it' }).click();
  await expect(page.getByRole('alert')).toContainText('best_apiaries may do more than compute');
  await page.getByRole('button', { name: 'Barnaby Quill' }).click();
  await page.getByRole('menuitem', { name: 'Sign out' }).click();
  await signIn('steward');
  await openProcedure(page, 'best_apiaries');
  await page.getByRole('button', { name: 'Let it run', exact: true }).click();
  await expect(page.getByText('A steward let it run')).toBeVisible();
  await page.getByRole('button', { name: 'Start a dataset from it' }).click();
  await page.getByRole('button', { name: 'Take all' }).click();
  await fill(page, 'season', '2024');
  await expect(stamp(page)).toContainText('all 5 rows');
  await expect(page.getByText('left blank: its default, 5')).toBeVisible();
  await fill(page, 'places', '3');
  await expect(stamp(page)).toContainText('all 3 rows');
  await openProcedure(page, 'best_apiaries');
  await page.getByRole('button', { name: 'No longer let it run' }).click();
  await expect(page.getByText('It does not run here until a steward lets it.')).toBeVisible();
});

test('a function is called beside the trail, and one that changed underneath says what before it is accepted', async ({ page, signIn }) => {
  await inDemo(`create or replace function coop.kilos_of(of_season int) returns table (code text, kilos numeric) stable language sql as
    'select apiary_code, sum(kilos) from coop.harvests where extract(year from picked_on) = of_season group by 1'`);
  try {
    await signIn('analyst');
    // A dataset of its own: what is added asks for a value, and others would wait for it.
    await newDataset(page, 'apiaries');
    await page.getByRole('button', { name: 'Take all' }).click();
    await addStep(page, 'Procedure');
    const dialog = page.getByRole('dialog', { name: 'What a function or procedure gives' });
    await dialog.getByRole('textbox').fill('kilos_of');
    await dialog.getByRole('button', { name: /kilos_of/ }).click();
    await accessible(page);
    await dialog.getByRole('button', { name: 'Call it' }).click();
    await expect(fields(page).getByRole('row')).toHaveCount(3);
    await page.getByRole('button', { name: 'Take all' }).click();
    await fill(page, 'of_season', '2024');
    await expect(stamp(page)).toContainText(/all .* rows/);

    await inDemo(`drop function coop.kilos_of(int);
      create function coop.kilos_of(of_season int) returns table (code text, total numeric) stable language sql as 'select ''OV'', 1.0'`);
    await page.reload();
    const changed = page.getByRole('group', { name: 'What changed in the source' });
    await expect(changed).toContainText('it gave TABLE(code text, kilos numeric) and now gives TABLE(code text, total numeric)');
    await changed.getByRole('button', { name: 'What accepting it does' }).click();
    await expect(changed).toContainText('kilos is gone; nothing uses it.');
    await accessible(page);
    await changed.getByRole('button', { name: 'Accept it as it is now' }).click();
    await expect(changed).toBeHidden();
    await expect(fields(page)).toContainText('total');
    await expect(stamp(page)).toContainText('all 1 rows');
  } finally {
    await inDemo('drop function if exists coop.kilos_of(int)');
  }
});

test('a procedure is tried, one of its cursors begins a dataset, and what it says stands beside the rows', async ({ page, signIn }) => {
  await signIn('analyst');
  await openProcedure(page, 'close_season');
  const tried = page.getByRole('region', { name: 'Try it' });
  await tried.getByLabel('season, integer').fill('2024');
  await page.keyboard.press('Enter');
  const [told] = await inDemo<{ n: string }>('select count(*) n from coop.harvests where extract(year from picked_on) = 2024');
  await expect(tried.getByText(`season 2024 is closed with ${told?.n} harvests`)).toBeVisible();
  await expect(tried.getByRole('table', { name: 'the rows of its cursor by_member' }).getByRole('row')).toHaveCount(201);
  const regions = tried.getByRole('table', { name: 'the rows of its cursor by_region' });
  await expect(regions.getByRole('row')).toHaveCount(5);
  await accessible(page);
  await tried.getByRole('button', { name: 'Start a dataset from these' }).last().click();
  await expect(page.getByText('The rows of its cursor by_region of')).toBeVisible();
  await page.getByRole('button', { name: 'Take all' }).click();
  await expect(stamp(page)).toContainText('all 4 rows');
  await expect(page.getByRole('list', { name: 'What the source said' })).toContainText(
    `notice: season 2024 is closed with ${told?.n} harvests`,
  );
  await expect(page.getByText('2 statements in a session of its own')).toBeVisible();
  await accessible(page);
  await fill(page, 'season', '1850');
  await expect(page.getByRole('list', { name: 'What the source said' })).toContainText('warning: no harvest was picked in 1850');
});

test('a call that takes too long is stopped by hand, at the source too', async ({ page, signIn }) => {
  await inDemo(`create or replace function coop.slow_count(seconds int) returns table (n int) stable language plpgsql as
    'begin perform pg_sleep(seconds); return query select seconds; end'`);
  try {
    await signIn('analyst');
    await openProcedure(page, 'slow_count');
    const tried = page.getByRole('region', { name: 'Try it' });
    await tried.getByLabel('seconds, integer').fill('250');
    await page.keyboard.press('Enter');
    const calls = () =>
      inDemo("select from pg_stat_activity where state = 'active' and query like '%slow_count%' and pid <> pg_backend_pid()");
    await expect.poll(async () => (await calls()).length).toBe(1);
    await tried.getByRole('button', { name: 'Stop it' }).click();
    await expect(tried.getByText('It was stopped.')).toBeVisible();
    await expect(tried.getByRole('button', { name: 'Call it once' })).toBeFocused();
    await expect.poll(async () => (await calls()).length).toBe(0);
    await tried.getByLabel('seconds, integer').fill('0');
    await page.keyboard.press('Enter');
    await expect(tried.getByText(/It ran, in/)).toBeVisible();
    await expect(tried.getByText('It was stopped.')).toBeHidden();
  } finally {
    await inDemo('drop function if exists coop.slow_count(int)');
  }
});

test('a procedure is called beside the trail, one of its results taken; a function that makes temp tables in a session', async ({
  page,
  signIn,
}) => {
  await signIn('steward');
  await openProcedure(page, 'ranked_hives');
  await page.getByRole('button', { name: 'Let it run', exact: true }).click();
  await page.getByRole('button', { name: 'Start a dataset from it' }).click();
  await page.getByRole('button', { name: 'Take all' }).click();
  await fill(page, 'season', '2024');
  await expect(page.getByText('It would write, which a statement that only reads may not.')).toBeVisible();
  await page.getByRole('button', { name: 'How it is called: in the statement' }).click();
  await page.getByRole('option', { name: /in a session of its own/ }).click();
  await expect(stamp(page)).toContainText(/all .* rows/);
  await addStep(page, 'Procedure');
  const dialog = page.getByRole('dialog', { name: 'What a function or procedure gives' });
  await dialog.getByRole('textbox').first().fill('close_season');
  await dialog.getByRole('button', { name: /close_season/ }).click();
  await dialog.getByLabel('season, integer').fill('2025');
  await dialog.getByRole('button', { name: 'Call it once' }).click();
  await dialog.getByRole('button', { name: 'Take these' }).first().click();
  await expect(page.getByText('The values it gives back of')).toBeVisible();
  await page.getByRole('button', { name: 'Take all' }).click();
  await expect(stamp(page)).toContainText('all 1 rows');
  await openProcedure(page, 'ranked_hives');
  await page.getByRole('button', { name: 'No longer let it run' }).click();
});

test('the text of a view is read and started from', async ({ page, signIn }) => {
  await inDemo(
    'create or replace view coop.shared_apiaries as select code, name from coop.apiaries where shared; grant select on coop.shared_apiaries to cendra_read',
  );
  try {
    await signIn('analyst');
    await page.getByRole('link', { name: 'Sources' }).click();
    await page.getByRole('link', { name: 'Cooperative database' }).click();
    await page.getByRole('textbox', { name: 'Part of a table’s name' }).fill('shared_ap');
    await page.getByRole('button', { name: /shared_apiaries/ }).click();
    await expect(page.getByLabel('How shared_apiaries is written')).toContainText('FROM coop.apiaries');
    await page.getByRole('button', { name: 'Start a dataset from this text' }).click();
    await expect(page.getByText('It gives 2 fields.')).toBeVisible();
  } finally {
    await inDemo('drop view if exists coop.shared_apiaries');
  }
});

test('a text is kept as a function by one who may, shown and compared; by one who may not it is not offered', async ({ page, signIn }) => {
  const name = 'kilos_of_a_season';
  try {
    await signIn('analyst');
    await page.getByRole('link', { name: 'Kilos of a season, one day short' }).click();
    await expect(page.getByRole('button', { name: 'Sweep …' })).toBeVisible();
    await expect(page.getByRole('button', { name: 'Keep as a function …' })).toHaveCount(0);
    await page.getByRole('button', { name: 'Barnaby Quill' }).click();
    await page.getByRole('menuitem', { name: 'Sign out' }).click();

    await signIn('steward');
    await page.getByRole('link', { name: 'Sources' }).click();
    await page.getByRole('link', { name: 'Cooperative database' }).click();
    await page.getByRole('tab', { name: 'Access' }).click();
    await page.getByRole('checkbox', { name: 'Barnaby Quill analyst may keep functions' }).click();
    await page.getByRole('button', { name: 'Say so' }).click();
    await expect(page.getByRole('button', { name: 'Nobody keeps functions here' })).toBeVisible();
    await accessible(page);
    await page.getByRole('button', { name: 'Ottoline Fenn' }).click();
    await page.getByRole('menuitem', { name: 'Sign out' }).click();

    await signIn('analyst');
    await page.getByRole('link', { name: 'Kilos of a season, one day short' }).click();
    await page.getByRole('button', { name: 'Keep as a function …' }).click();
    const dialog = page.getByRole('dialog', { name: 'Keep it as a function of its source' });
    await dialog.getByLabel('Name, in the schema kept').fill(name);
    await page.keyboard.press('Enter');
    await expect(dialog.getByLabel('What would be made')).toContainText(`create function "kept"."${name}"("season" integer`);
    await dialog.getByRole('button', { name: 'Values they are compared for' }).click();
    await page.getByRole('option', { name: 'each value of :season' }).click();
    await dialog.getByLabel('Values to compare').fill('2022 … 2025 by 1');
    await accessible(page);
    await dialog.getByRole('button', { name: 'Make it' }).click();
    await expect(dialog.getByRole('status')).toContainText(`kept.${name}(integer) is made. It gives the same rows as the text.`);
    await expect(dialog.getByRole('table', { name: 'Both compared' }).getByText('the same rows')).toHaveCount(4);
    await accessible(page);
    await dialog.getByRole('button', { name: 'Close' }).click();

    // Another time it takes the place of the one that is there, whose text is shown beside it.
    await page.getByRole('button', { name: 'Keep as a function …' }).click();
    await dialog.getByLabel('Name, in the schema kept').fill(name);
    await page.keyboard.press('Enter');
    await expect(dialog.getByText('There is such a function already.')).toBeVisible();
    await dialog.getByRole('button', { name: 'Take its place' }).click();
    await expect(dialog.getByRole('status')).toContainText('It gives the same rows as the text.');
    await dialog.getByRole('button', { name: 'Close' }).click();
    await openProcedure(page, name);
    await expect(page.getByRole('region', { name: 'Kept from texts' }).getByRole('listitem')).toHaveCount(2);
    await accessible(page);
  } finally {
    await inDemo(`drop function if exists kept.${name}(int)`);
  }
});
