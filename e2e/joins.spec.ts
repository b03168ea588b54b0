import type { Page } from '@playwright/test';
import { addStep, newDataset, stamp, thin, trail } from './bench-steps';
import { press, tabTo } from './keyboard';
import { accessible, demo, expect, inDemo, test } from './support';

/** Tables brought together by hand; every count on the screen is what SQL run apart gives. */

test.use({ actionTimeout: 15_000 });

const ledger = (page: Page) => page.getByRole('region', { name: 'Match ledger' });
const line = (page: Page, words: string) => ledger(page).getByRole('listitem').filter({ hasText: words });
const one = async (sql: string) => Number(Object.values((await inDemo<Record<string, string>>(sql))[0] ?? {})[0]);

/** Chooses the first field found by part of its name. */
async function pick(page: Page, label: string, part: string): Promise<void> {
  await page.getByLabel(label).fill(part);
  await page.getByRole('option').filter({ hasText: part }).first().click();
}

async function bringIn(page: Page, table: string): Promise<void> {
  await addStep(page, 'Bring in');
  await page.getByLabel('What to bring in').fill(table);
  await page.getByRole('option', { name: new RegExp(`^${table} table`) }).click();
}

test('harvests meet their apiaries: a wrong proposal is removed, own keys are made, and the ledger agrees with SQL', async ({
  page,
  signIn,
}) => {
  await signIn('analyst');
  await newDataset(page, 'harvests');
  await page.getByRole('button', { name: 'Take all' }).click();
  await bringIn(page, 'apiaries');

  const proposals = page.getByRole('list', { name: 'Proposals' });
  await expect(proposals.getByRole('listitem').first()).toContainText('apiary_code equals code');
  await proposals.getByRole('listitem').filter({ hasText: 'id equals member_id' }).getByRole('button', { name: 'Take' }).click();
  await expect(page.getByLabel('Pair 1, second side')).toHaveValue('member_id');
  await page.getByRole('button', { name: 'Remove pair 1' }).click();
  await page.getByRole('button', { name: 'Add a pair' }).click();
  await pick(page, 'Pair 1, first side', 'apiary_c');
  await pick(page, 'Pair 1, second side', 'code');

  const alone = await one(
    'select count(*) from coop.harvests h where apiary_code is not null and not exists (select from coop.apiaries a where a.code = h.apiary_code)',
  );
  const met = await one('select count(*) from coop.harvests h join coop.apiaries a on a.code = h.apiary_code');
  await expect(line(page, 'with one row of apiaries')).toContainText(thin(met));
  await expect(line(page, 'without a row of apiaries')).toContainText(thin(alone));
  await accessible(page);

  // Left out, the rows and the counts follow.
  await line(page, 'without a row of apiaries').getByRole('button', { name: /^keep/ }).press('Space');
  await expect(line(page, 'whose apiary_code is null').getByRole('button', { name: /^leave out/ })).toBeVisible();
  await expect(ledger(page)).toContainText(`become ${thin(met)} rows`);
  await expect(ledger(page)).toContainText('inner join');
  await expect(stamp(page)).toContainText(`of ${thin(met)} rows`);

  // The rows of a line, shown as such.
  await line(page, 'whose apiary_code is null')
    .getByRole('button', { name: /^leave out/ })
    .press('Enter');
  await expect(stamp(page)).toContainText('rows of harvests whose apiary_code is null, of');
  await expect(stamp(page)).toContainText(`all ${await one('select count(*) from coop.harvests where apiary_code is null')} rows`);
  await page.getByRole('button', { name: 'Back to all rows' }).click();

  // Codes that are written differently are matched on purpose, which the sentence says.
  const near = page.getByRole('region', { name: 'Near misses' });
  const miss = near.getByRole('table', { name: 'Near misses, in pairs' }).getByRole('row').first();
  await miss.getByRole('button', { name: /show them$/ }).click();
  await expect(stamp(page)).toContainText('and without a partner, of');
  await expect(stamp(page)).toContainText(`all ${await miss.getByRole('button').innerText()} rows`);
  await page.getByRole('button', { name: 'Back to all rows' }).click();
  await near
    .getByRole('listitem')
    .filter({ hasText: 'blanks around it and upper and lower case' })
    .getByRole('button', { name: 'Match them' })
    .click();
  const matched = await one(
    "select count(*) from coop.harvests h join coop.apiaries a on lower(a.code) = lower(btrim(h.apiary_code, ' '))",
  );
  await expect(ledger(page)).toContainText(`become ${thin(matched)} rows`);
  await expect(page.getByRole('button', { name: /blanks around it is overlooked/ })).toBeVisible();

  // Fields of the other side, pasted.
  await page.getByRole('button', { name: 'Paste names' }).click();
  await page.getByLabel('Names of fields to take').fill('name, district_code, nothing_such');
  await page.getByRole('button', { name: 'Take them' }).click();
  await expect(page.getByText('No field is called nothing_such.')).toBeVisible();
  await expect(page.getByText('Taking 2 of 7 fields of rows of apiaries')).toBeVisible();
});

test('multiplied rows are seen in a watched figure and cured in two ways', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: 'Harvests priced by grade' }).click();
  const kilos = async (join: string) =>
    Number((await inDemo<{ kilos: string }>(`select sum(h.kilos)::text kilos from coop.harvests h ${join}`))[0]?.kilos);
  const plain = await kilos('');
  const inflated = await kilos(
    'left join coop.grade_prices p on p.season = extract(year from h.picked_on) and p.grade = h.grade and p.floral_source = h.floral_source',
  );
  const shown = (sum: number) => `${thin(Math.trunc(sum))}.${String(Math.round(sum * 100) % 100).padStart(2, '0')}`;
  await page.getByRole('button', { name: 'Watch a figure …' }).click();
  await pick(page, 'Field to watch', 'kilos');
  const step = trail(page).getByRole('listitem').filter({ hasText: 'meets its price' });
  await expect(step).toContainText(shown(inflated));
  await expect(step).toContainText('multiplied');
  await expect(trail(page).getByRole('listitem').filter({ hasText: 'with season' })).toContainText(shown(plain));

  await step.getByText('meets its price').click();
  const multiplied = page.getByRole('region', { name: 'Rows multiplied' });
  await expect(multiplied.getByRole('table', { name: 'Worst keys' })).toContainText('heather');
  const worst = multiplied
    .getByRole('table', { name: 'Worst keys' })
    .getByRole('button', { name: /show them$/ })
    .first();
  const rows = await worst.innerText();
  await worst.click();
  await expect(stamp(page)).toContainText(/harvests with .*heather/);
  await expect(stamp(page)).toContainText(`all ${rows} rows`);
  await page.getByRole('button', { name: 'Back to all rows' }).click();
  await multiplied.getByRole('button', { name: 'Keep one partner per row …' }).click();
  await pick(page, 'Which partner is kept, the first by', 'price');
  await expect(step).toContainText(shown(plain));
  await expect(step).not.toContainText('multiplied');

  // Undone in one step, and cured by a pair more instead.
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(step).toContainText(shown(inflated));
  await multiplied.getByRole('button', { name: 'Add a pair' }).click();
  await page.getByLabel('Pair 4, first side').fill('6.0 + 0.0');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByLabel('Why it is right that rows are multiplied').fill('both prices are wanted for now');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Why it is right that rows are multiplied')).toHaveValue('both prices are wanted for now');
  await accessible(page);
});

test('a pair that would narrow what meets is offered with how much, and taken', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: 'Harvests priced by grade' }).click();
  const step = trail(page).getByRole('listitem').filter({ hasText: 'meets its price' });
  await step.getByText('meets its price').click();
  await page.getByRole('button', { name: 'Remove pair 3' }).click();
  const meeting = async (pair: string) =>
    Number(
      (
        await inDemo<{ n: string }>(
          `select count(*) n from coop.harvests h join coop.grade_prices p on p.season = extract(year from h.picked_on) and p.grade = h.grade ${pair}`,
        )
      )[0]?.n,
    );
  const [some, all] = [await meeting('and p.floral_source = h.floral_source'), await meeting('')];
  await page
    .getByRole('button', {
      name: `Also floral_source equals grade_prices_floral_source: ${thin(some)} of ${thin(all)} rows meet`,
    })
    .click();
  await expect(page.getByRole('button', { name: 'Remove pair 3' })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
});

test('a lookup that would multiply rows is refused with its worst keys, and finds one by an order', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'harvests');
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Look up');
  await page.getByLabel('What to bring in').fill('grade_prices');
  await page.getByRole('option', { name: /^grade_prices/ }).click();
  const partner = page.getByRole('region', { name: /^Partner 1/ });
  await partner.getByRole('listitem').filter({ hasText: 'floral_source equals' }).getByRole('button', { name: 'Take' }).click();
  await expect(partner.getByText('nothing is looked up')).toBeVisible();
  await expect(partner.getByRole('table', { name: 'Worst keys' })).toContainText('heather');
  await accessible(page);
  await partner.getByRole('button', { name: 'Keep one partner per row …' }).click();
  await pick(page, 'Which partner is kept, the first by', 'price');
  await expect(partner.getByText('nothing is looked up')).toHaveCount(0);
  const found = await one('select count(*) from coop.harvests where floral_source is not null');
  await expect(partner).toContainText(`${thin(found)} found`);
  const all = await one('select count(*) from coop.harvests');
  await expect(trail(page).getByRole('listitem').filter({ hasText: 'looks up' })).toContainText(thin(all));
});

test('a row is followed through a join to the partners it meets, and a code nobody has to no partner', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: 'Harvests and their apiaries' }).click();
  const [lost] = await inDemo<{ id: string; code: string }>(
    "select id, apiary_code code from coop.harvests where apiary_code like 'ZZ-%' order by id limit 1",
  );
  await page.getByRole('button', { name: 'Follow a row …' }).click();
  await page.getByLabel('Value the row is known by').fill(String(lost?.id));
  await page.keyboard.press('Enter');
  await expect(trail(page).getByText(`no partner (apiary_code was "${lost?.code}"), kept`)).toBeVisible();
});

test('more is brought in from the sentence, in five actions', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'apiaries');
  await page.getByRole('button', { name: 'Take all' }).click();
  await page.getByRole('region', { name: 'Sentence' }).getByRole('button', { name: 'Bring in …' }).click();
  await page.keyboard.type('members');
  await expect(page.getByRole('option', { name: /^members table/ })).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('list', { name: 'Proposals' }).getByRole('button', { name: 'Take' }).first()).toBeFocused();
  await page.keyboard.press('Enter');
  await page.getByRole('region', { name: 'Fields of the partners' }).getByRole('button', { name: 'Take all' }).click();
  await expect(page.getByText('Taking 8 of 9 fields of rows of members')).toBeVisible();
  await expect(stamp(page)).toContainText('310 rows');
});

test('from a table to joined rows with the keyboard alone', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'deliveries');
  await press(page, page.getByRole('button', { name: 'Take all' }));
  await tabTo(page, trail(page).getByRole('button', { name: /^deliveries/ }));
  await page.keyboard.press('/');
  await page.getByRole('menuitem', { name: 'Bring in' }).waitFor();
  await page.keyboard.type('bring');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('What to bring in')).toBeFocused();
  await page.keyboard.type('harvests');
  await expect(page.getByRole('option', { name: /^harvests table/ })).toBeVisible();
  await page.keyboard.press('Enter');
  // The declared key is proposed first, and waits for Enter.
  const first = page.getByRole('list', { name: 'Proposals' }).getByRole('listitem').first();
  await expect(first).toContainText('declared: deliveries refers to harvests');
  await expect(first.getByRole('button', { name: 'Take' })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(ledger(page)).toContainText('rows of deliveries with one row of harvests');
  await press(page, page.getByRole('region', { name: 'Fields of the partners' }).getByRole('button', { name: 'Take all' }));
  await expect(page.getByRole('columnheader', { name: /apiary_code/ })).toBeVisible();
  await expect(page.getByText('Taking 8 of 9 fields')).toBeVisible();
  const all = await one('select count(*) from coop.deliveries');
  await expect(stamp(page)).toContainText(`of ${thin(all)} rows`);
});

test('a table step reads another table: columns are mapped, dependants listed, and undo restores it', async ({ page, signIn }) => {
  await inDemo(
    'create table if not exists coop.pickings as select id, apiary_code as apiary, picked_on as picked, kilos::text as kilos, moisture from coop.harvests',
  );
  await inDemo('grant select on coop.pickings to cendra_read');
  try {
    await signIn('analyst');
    await page.getByRole('link', { name: 'Harvests and their apiaries' }).click();
    await trail(page)
      .getByRole('button', { name: /^harvests/ })
      .click();
    await page.getByRole('button', { name: 'Read another table …' }).click();
    await page.getByLabel('What to bring in').fill('pickings');
    await page.getByRole('option', { name: /^pickings/ }).click();
    const mapping = page.getByRole('list', { name: 'Columns, old to new' });
    await mapping.getByRole('button', { name: /^Column for apiary_code/ }).click();
    await page.getByRole('option', { name: 'apiary', exact: true }).click();
    await expect(page.getByText(/floral_source.* no column there/)).toBeVisible();
    await page.getByRole('button', { name: 'Read pickings' }).click();
    await expect(page.getByText('The column floral_source of pickings is gone.')).toBeVisible();
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(page.getByText('coop.harvests', { exact: true })).toBeVisible();
    await expect(page.getByText('is gone.')).toHaveCount(0);
  } finally {
    await inDemo('drop table coop.pickings');
  }
});

test('a table step reads a table of another source, and what may not meet says so by name', async ({ page, signIn, cendra }) => {
  await signIn('steward');
  const settings = { host: '127.0.0.1', port: demo.port, database: 'cooperative', user: 'cendra_read', tls: 'off' };
  const me = (await (await page.request.get(`${cendra}/api/me`)).json()) as { readonly csrf: string };
  const headers = { 'x-cendra-csrf': me.csrf };
  const made = await page.request.post(`${cendra}/api/sources`, {
    headers,
    data: { name: 'Weighing house', mark: 'WH', kind: 'postgresql', settings, secret: demo.password },
  });
  expect(made.status(), await made.text()).toBe(201);
  const { id } = (await made.json()) as { readonly id: string };
  try {
    await page.getByRole('link', { name: 'Harvests and their apiaries' }).click();
    await trail(page)
      .getByRole('button', { name: /^apiaries/ })
      .click();
    await page.getByRole('button', { name: 'Read another table …' }).click();
    await page.getByLabel('Source of the table').click();
    await page.getByRole('option', { name: 'Weighing house' }).click();
    await page.getByLabel('What to bring in').fill('apiaries');
    await page.getByRole('option', { name: /^apiaries table of Weighing house/ }).click();
    await page.getByRole('button', { name: 'Read apiaries' }).click();
    await trail(page)
      .getByRole('button', { name: /^meets its apiary/ })
      .click();
    await expect(page.getByText('Cooperative database and Weighing house may not meet in one dataset yet.').first()).toBeVisible();
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(stamp(page)).toContainText('of 12\u202f430 rows');
  } finally {
    await page.request.delete(`${cendra}/api/sources/${id}`, { headers });
  }
});

test('where counting takes longer than the source allows, what it expects stays, and exact counts come on request', async ({
  page,
  signIn,
}) => {
  await signIn('analyst');
  const [problem] = [{ code: 'statement-too-long', severity: 'error', message: 'The statement ran longer than allowed.', place: {} }];
  const body = { type: problem.code, title: problem.message, status: 504, problems: [problem] };
  let refused = 0;
  await page.route('**/api/answers', async (route) => {
    const { question } = route.request().postDataJSON() as { readonly question: { readonly kind: string } };
    if (question.kind !== 'evidence' || refused > 0) return route.continue();
    refused++;
    return route.fulfill({ status: 504, contentType: 'application/problem+json', body: JSON.stringify(body) });
  });
  await page.getByRole('link', { name: 'Harvests in the region of their day' }).click();
  await trail(page)
    .getByRole('button', { name: /^meets its region of its day/ })
    .click();
  await expect(ledger(page).getByText('Counting took longer than the source allows; this is what it expects.')).toBeVisible();
  await expect(ledger(page).getByRole('list', { name: 'Expected' })).toContainText('~');
  await ledger(page).getByRole('button', { name: 'Count exactly' }).click();
  await expect(line(page, 'with one region of its day')).toContainText(thin(11_906));
  await expect(ledger(page).getByRole('list', { name: 'Expected' })).toHaveCount(0);
});

test('the focus stays with the best pair where measuring changes their order', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'harvests');
  const bringIn = async () => {
    await addStep(page, 'Bring in');
    await page.getByLabel('What to bring in').fill('apiaries');
    await page
      .getByRole('option', { name: /^apiaries/ })
      .first()
      .click();
  };
  await bringIn();
  await page.getByRole('list', { name: 'Proposals' }).getByRole('button', { name: 'Take' }).first().click();
  await bringIn();
  // By its name a harvest’s apiary comes first; measured, all codes of the apiaries met before are found.
  const best = page.getByRole('list', { name: 'Proposals' }).getByRole('listitem').first();
  await expect(best).toContainText(/Take\s*code equals/);
  await expect(best).toContainText('310 of 310 values found there');
  await expect(best.getByRole('button', { name: 'Take' })).toBeFocused();
});
