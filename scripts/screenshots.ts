import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import type { Page } from '@playwright/test';
import { buildAll } from './setup/build';
import { startCluster } from './setup/cluster';
import { ensureDemo, ensureOwnDatabase } from './setup/databases';
import { root } from './setup/root';
import { main, say } from './setup/say';
import type { RunningServer } from './setup/server';
import { startServer } from './setup/server';
import { ensureChromium } from './setup/system';

const ARGS = [
  '--no-sandbox',
  '--disable-dev-shm-usage',
  '--disable-gpu',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--no-first-run',
];
const out = join(root, 'docs', 'screenshots');

/** One picture per main view at 1280 × 800, from fresh demo data. */
main(async () => {
  buildAll();
  mkdirSync(out, { recursive: true });
  const folder = mkdtempSync(join(tmpdir(), 'cendra-shots-'));
  const cluster = await startCluster(folder, true);
  const browser = await chromium.launch({ executablePath: ensureChromium(), args: ARGS });
  let server: RunningServer | undefined;
  try {
    const demoPassword = await ensureDemo(cluster, folder, 240_000);
    server = await startServer({
      cluster,
      database: await ensureOwnDatabase(cluster, 'cendra'),
      dataFolder: join(folder, 'server'),
      demoPassword,
      webFolder: join(root, 'apps/web/dist'),
    });
    const { address } = server;
    const page = async (colorScheme: 'light' | 'dark') =>
      (await browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme, reducedMotion: 'reduce' })).newPage();
    await stewardViews(await page('light'), address);
    await analystViews(await page('light'), address);
    await handedOverViews(await page('light'), address);
    await criteriaViews(await page('light'), address);
    await calculateViews(await page('light'), address);
    await summedViews(await page('light'), address);
    await textView(await page('light'), address);
    await scriptView(await page('light'), address);
    await darkViews(await page('dark'), address);
    await historyView(await page('dark'), address);
  } finally {
    await browser.close();
    await server?.stop();
    cluster.stop();
    rmSync(folder, { recursive: true, force: true });
  }
  say('The pictures are in docs/screenshots.');
});

const shoot = (page: Page, name: string) => page.screenshot({ path: join(out, `${name}.png`) });

async function signIn(page: Page, address: string, role: string): Promise<void> {
  await page.goto(address);
  await page.getByRole('button', { name: `Sign in as the demo ${role}` }).click();
  await page.getByRole('navigation', { name: 'Main' }).waitFor();
}

async function openTable(page: Page, table: string): Promise<void> {
  await page.getByRole('link', { name: 'Sources' }).click();
  await page.getByRole('link', { name: 'Cooperative database' }).click();
  await page.getByLabel('Part of a table’s name').fill(table.slice(0, 4));
  await page.getByRole('button', { name: `coop.${table}` }).click();
  await page.getByRole('region', { name: 'Sample rows' }).last().getByRole('row').nth(3).waitFor();
}

async function stewardViews(page: Page, address: string): Promise<void> {
  await page.goto(address);
  await page.getByRole('button', { name: 'Sign in as the demo steward' }).waitFor();
  await signIn(page, address, 'steward');
  await openTable(page, 'harvests');
  await page.getByRole('button', { name: 'Test connection' }).click();
  await page.getByText('Answers as').waitFor();
  await shoot(page, 'source');
}

const rowsSeen = (page: Page) => page.getByRole('grid').getByRole('row').nth(6).waitFor();

async function analystViews(page: Page, address: string): Promise<void> {
  await signIn(page, address, 'analyst');
  await page.getByRole('link', { name: 'Kept texts' }).click();
  await page.getByRole('link', { name: 'Settlement of members', exact: true }).click();
  await page.getByRole('button', { name: /^Compared with/ }).click();
  await page.getByRole('option', { name: /^Settlement of members, new/ }).click();
  await page.getByRole('textbox', { name: 'Words of the text' }).waitFor();
  await shoot(page, 'kept-text');
  await page.getByRole('link', { name: 'Sources' }).click();
  await page.getByRole('link', { name: 'Cooperative database' }).click();
  await page.getByRole('tab', { name: 'Procedures' }).click();
  await page.getByRole('button', { name: /member_settlement/ }).click();
  await page.getByLabel('How member_settlement is written').waitFor();
  await shoot(page, 'procedure');
  await page.getByRole('link', { name: 'Datasets' }).click();
  await page.getByRole('link', { name: 'Harvests priced by grade' }).click();
  await page.getByRole('button', { name: 'Watch a figure …' }).click();
  await page.getByLabel('Field to watch').fill('kilos');
  await page.getByRole('option').filter({ hasText: 'kilos' }).first().click();
  await page.getByRole('region', { name: 'Trail' }).getByText('meets its price').click();
  await page.getByText(/become 1\d\u202f\d{3} rows/).waitFor();
  await rowsSeen(page);
  await shoot(page, 'join');
  await page.getByRole('link', { name: 'Datasets' }).click();
  await page.getByRole('link', { name: 'Harvests worth delivering' }).waitFor();
  await shoot(page, 'datasets');
  await page.getByRole('link', { name: 'Harvests worth delivering' }).click();
  await rowsSeen(page);
  await page.getByRole('button', { name: 'The statement it makes' }).click();
  await page.getByRole('button', { name: 'Parameters' }).click();
  await page.getByRole('group', { name: 'Parameter min_kilos' }).waitFor();
  await shoot(page, 'bench');
}

const YIELD = 'Yield of 2025 by floral source';
const proofSeen = (page: Page) =>
  // Lines that are still on their way stand as “…”.
  page.getByRole('table', { name: 'Lines of the proof' }).getByRole('row').nth(10).filter({ hasNotText: '…' }).waitFor();

async function handedOverViews(page: Page, address: string): Promise<void> {
  await signIn(page, address, 'analyst');
  await page.getByRole('link', { name: YIELD }).click();
  await rowsSeen(page);
  await page.getByRole('grid').focus();
  for (const key of ['ArrowRight', 'ArrowRight', 's', 's', 'p']) await page.keyboard.press(key);
  await page.locator('.recharts-bar-rectangle').first().waitFor();
  await page
    .getByRole('columnheader', { name: /picked_on/ })
    .and(page.locator('[aria-sort=descending]'))
    .waitFor();
  await shoot(page, 'rows');
  await page.getByRole('link', { name: 'Fields' }).click();
  await page.getByRole('list', { name: 'Fields handed over' }).getByRole('listitem').filter({ hasText: 'kilos' }).click();
  await page.getByRole('button', { name: 'Brief' }).click();
  await page.getByText('2 of 3 met').waitFor();
  await shoot(page, 'fields');
  await page.getByRole('link', { name: 'Proof' }).click();
  await proofSeen(page);
  await page.getByRole('button', { name: 'Brief' }).click();
  await shoot(page, 'proof');
  await page.getByRole('link', { name: 'Datasets' }).click();
  await page.getByRole('link', { name: 'Yield by region, season by season' }).click();
  await page.getByRole('link', { name: 'Proof' }).click();
  await proofSeen(page);
  await page.getByRole('region', { name: 'Chart' }).getByRole('list', { name: 'Series' }).waitFor();
  await shoot(page, 'crosstab');
}

async function historyView(page: Page, address: string): Promise<void> {
  await signIn(page, address, 'analyst');
  await page.getByRole('link', { name: YIELD }).click();
  await page.getByRole('link', { name: 'Fields' }).click();
  await page.getByLabel('Label', { exact: true }).fill('Honey of');
  await page.keyboard.press('Enter');
  await page.getByLabel('Add a tag').fill('autumn');
  await page.keyboard.press('Enter');
  await page.getByText('draft r3, saved').waitFor();
  await page.getByRole('button', { name: 'History' }).click();
  await page.getByRole('list', { name: 'Revisions' }).getByRole('button').last().click();
  await page.getByRole('region', { name: 'Comparison' }).getByRole('listitem').nth(1).waitFor();
  await shoot(page, 'history');
}

async function criteriaViews(page: Page, address: string): Promise<void> {
  await signIn(page, address, 'analyst');
  await page.getByRole('link', { name: 'Harvests of a season, by source and grade' }).click();
  await rowsSeen(page);
  await page.getByText('only this one').first().waitFor();
  await page
    .getByText(/^[\d\u202f]+ left$/)
    .first()
    .waitFor();
  await shoot(page, 'criteria');
  await page.getByRole('link', { name: 'Datasets' }).click();
  await page.getByRole('link', { name: 'Harvests that leave nothing' }).click();
  await page.getByRole('region', { name: 'Why no row is left' }).waitFor();
  await page.getByRole('button', { name: 'Follow a row' }).click();
  await page.getByLabel('Value the row is known by').fill('17');
  await page.keyboard.press('Enter');
  await page.getByText('dropped by clause').waitFor();
  await shoot(page, 'criteria-nothing-left');
}

const calculatedField = (page: Page, name: string) =>
  page
    .getByRole('list', { name: 'Calculated fields' })
    .getByRole('button', { name: new RegExp(name) })
    .first();

const liveSeen = (page: Page) => page.getByRole('region', { name: 'Values' }).getByRole('row').nth(3).waitFor();

async function calculateViews(page: Page, address: string): Promise<void> {
  await signIn(page, address, 'analyst');
  await page.getByRole('link', { name: 'Inspections with readable counts' }).click();
  await page.getByText('failed in').first().waitFor();
  await calculatedField(page, 'per_hundred').click();
  await liveSeen(page);
  await shoot(page, 'calculate');
}

/** Stacked, and summed up with months without rows. */
async function summedViews(page: Page, address: string): Promise<void> {
  await signIn(page, address, 'analyst');
  const openAt = async (dataset: string, step: RegExp) => {
    await page.getByRole('link', { name: 'Datasets' }).click();
    await page.getByRole('link', { name: dataset }).click();
    await rowsSeen(page);
    const line = page.getByRole('region', { name: 'Trail' }).getByRole('button', { name: step });
    await line.click();
    await line.and(page.locator('[aria-current=step]')).waitFor();
    await rowsSeen(page);
    await page.getByRole('region', { name: 'Rows', exact: true }).getByText(/rows$/).first().waitFor();
  };
  await openAt('Deliveries and advances in one list', /on top of one another.* union/);
  await page
    .getByText(/deliveries \+ 2\u202f600 advances/)
    .first()
    .waitFor();
  await shoot(page, 'union');
  await openAt('Yield per apiary and month', /^one row per apiary/);
  await shoot(page, 'summarise');
}

/** A pasted text, its parameters converted, with what is found in it. */
async function textView(page: Page, address: string): Promise<void> {
  await signIn(page, address, 'analyst');
  await page.getByRole('link', { name: 'Settlement of members, as it was pasted' }).click();
  await page.getByRole('button', { name: 'Convert', exact: true }).click();
  await page.getByText('It gives 5 fields.').waitFor();
  await page.getByRole('list', { name: 'What is said of the text' }).getByText('Only the first 100 rows').waitFor();
  await rowsSeen(page);
  await shoot(page, 'sql');
}

/** A script with the list of its statements, and the temp table behind the one that is wrong. */
async function scriptView(page: Page, address: string): Promise<void> {
  await signIn(page, address, 'analyst');
  await page.getByRole('link', { name: 'A season’s figures, line by line' }).click();
  await rowsSeen(page);
  await page.getByRole('button', { name: 'Run the statements' }).click();
  await page.getByText(/kept until/).waitFor();
  await page.getByRole('list', { name: 'Statements' }).getByRole('button').nth(4).click();
  await page.getByRole('region', { name: 'Behind statement 5' }).getByText('5 rows changed').waitFor();
  await shoot(page, 'script');
}

async function darkViews(page: Page, address: string): Promise<void> {
  await signIn(page, address, 'analyst');
  await page.getByRole('link', { name: 'A season’s figures as a line sheet' }).click();
  await rowsSeen(page);
  await page.getByText('all 12 rows').first().waitFor();
  await shoot(page, 'line-sheet-char');
}
