import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import { buildAll } from '../scripts/setup/build';
import type { Cluster } from '../scripts/setup/cluster';
import { startCluster } from '../scripts/setup/cluster';
import { asOwner, ensureDemo, ensureOwnDatabase, FULL_READINGS } from '../scripts/setup/databases';
import { root } from '../scripts/setup/root';
import type { RunningServer } from '../scripts/setup/server';
import { startServer } from '../scripts/setup/server';
import { bundle } from './bundle';
import { directHead, psql } from './by-hand';
import { Client } from './client';
import type { Compared } from './criteria';
import { HEAVY, passCounts, searched } from './criteria';
import { crosstab, widest } from './crosstab';
import { statementOf, TEN, typing } from './expressions';
import { evidence, PAIR_OF_TABLES, proposals, threeJoins, WITHOUT_THEM } from './joins';
import type { Line } from './line';
import { print } from './line';
import { underLoad } from './load';
import { memoryOf } from './memory';
import { ownQueries } from './own-queries';
import { pair } from './pair';
import { papers } from './paper';
import { proofOf } from './proof';
import { routines } from './routines';
import { longestTask, longestTaskAcross } from './scrolling';
import { joinedAndSummed, stackedCriteria } from './summaries';
import { texts } from './texts';

/** Prints every figure beside a reference measured in the same run, and writes them as JSON. */
export async function bench(): Promise<number> {
  buildAll();
  const folder = mkdtempSync(join(tmpdir(), 'cendra-bench-'));
  const cluster = await startCluster(folder, true);
  try {
    const demoPassword = await ensureDemo(cluster, folder, FULL_READINGS);
    const database = await ensureOwnDatabase(cluster, 'cendra');
    const open = () =>
      startServer({ cluster, database, dataFolder: join(folder, 'server'), demoPassword, webFolder: join(root, 'apps/web/dist') });
    const started = performance.now();
    const server = await open();
    const start = (performance.now() - started) / 1000;
    const lines = await measure(cluster, server, folder, demoPassword).finally(() => server.stop());
    lines.push(
      {
        what: 'own queries around a head run',
        cendra: await ownQueries(cluster, open),
        reference: 0,
        unit: '',
        most: 8,
        rule: 'at most 8',
      },
      { what: 'start of the server on ready data', cendra: start, reference: 0, unit: 's', most: 30, rule: 'under 30 s' },
      bundle(),
    );
    print(lines);
    writeFileSync(join(root, 'benchmarks/last.json'), `${JSON.stringify(lines, null, 2)}\n`);
    return lines.every((each) => each.cendra <= each.most) ? 0 : 1;
  } finally {
    cluster.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}

async function measure(cluster: Cluster, server: RunningServer, folder: string, demoPassword: string): Promise<Line[]> {
  const client = await Client.signIn(server.address);
  const dataset = await client.readings(HEAVY);
  const idle = await settled(server);
  const psqlTo = (sql: string, file: string, before: readonly string[] = []) =>
    psql(cluster, demoPassword, [...before, `\\copy (${sql.replaceAll('\n', ' ')}) to '${file}' csv`]);
  const fields = 'hive_id, read_at, weight_kg, outside_c, battery_v, sensor, flagged, reading_no';
  const sql = `select ${fields} from coop.scale_readings where ${HEAVY}`;

  const head = await pair(
    7,
    () => client.run(dataset, 'head'),
    () => directHead(cluster, demoPassword, `${sql} limit 1000`),
    () => client.quiet(),
  );
  const memory = memoryOf(server.process.pid ?? 0);
  const copy = () => psqlTo(sql, join(folder, 'reference.csv'));
  let result = '';
  const full = await pair(
    8,
    async () => void (result = await client.run(dataset, 'full')),
    copy,
    () => client.quiet(),
  );
  const csv = await pair(3, () => client.download(result, join(folder, 'take-away.csv')), copy);
  const peak = memory.stop();
  const page = await pages(client, result, folder);
  const load = await underLoad(client, await client.small(), result);
  const small = await flatness(client, server);
  const ten = await client.calculated(TEN);
  const made = statementOf(ten.definition);
  const byHand = TEN.map((each) => `${each.byHand} as ${each.name}`).join(', ');
  const calculated = await pair(
    3,
    () => psqlTo(made.text, join(folder, 'calculated.csv'), made.settings),
    () => psqlTo(`select reading_no, ${byHand} from coop.scale_readings`, join(folder, 'by-hand.csv')),
  );
  const counted = await compared(await passCounts(client), cluster, demoPassword);
  const found = await compared(await searched(client), cluster, demoPassword);
  await asOwner(cluster, 'cooperative', (owner) => owner.query(PAIR_OF_TABLES));
  const met = await compared(await evidence(client), cluster, demoPassword);
  const proposed = await compared(await proposals(client), cluster, demoPassword);
  await asOwner(cluster, 'cooperative', (owner) => owner.query(WITHOUT_THEM));
  const three = await threeJoins(client);
  const threeHead = await pair(
    5,
    () => client.run(three.dataset, 'head'),
    () => directHead(cluster, demoPassword, `${three.sql} limit 1000`),
    () => client.quiet(),
  );
  const threeFull = await pair(
    3,
    () => client.run(three.dataset, 'full'),
    () => psqlTo(three.sql, join(folder, 'three.csv')),
    () => client.quiet(),
  );
  const summed = await joinedAndSummed(client);
  const groups = await pair(
    3,
    () => client.run(summed.dataset, 'full'),
    () => psqlTo(summed.sql, join(folder, 'summed.csv')),
    () => client.quiet(),
  );
  const stacked = await stackedCriteria(client);
  const five = await pair(
    3,
    () => client.run(stacked.dataset, 'full'),
    () => psqlTo(stacked.sql, join(folder, 'stacked.csv')),
    () => client.quiet(),
  );
  const routed = await routines(client, cluster, demoPassword, folder);
  const written = await texts(client, cluster, demoPassword, folder);
  const onPaper = await papers(client, folder);
  const proof = await proved(client, folder);
  const across = await crosstab(client, folder);
  const longestAcross = await longestTaskAcross(server.address, await widest(client));
  const longest = await longestTask(server.address, await client.readings('reading_no < 1000000'), '1\u202f000\u202f000 rows');
  return [
    {
      what: 'first page, 2 M rows with criteria',
      ...head,
      unit: 'ms',
      most: 1.5 * head.reference + 30,
      rule: '1.5 × + 30 ms',
    },
    {
      what: 'full run to a stored result, 2 M rows × 8',
      ...full,
      unit: 'ms',
      most: 1.2 * full.reference,
      rule: '1.2 × psql \\copy',
    },
    { what: 'CSV take-away of 2 M rows', ...csv, unit: 'ms', most: 1.5 * csv.reference, rule: '1.5 × psql \\copy' },
    {
      what: 'page 10 000 of a sorted result',
      cendra: page.cendra,
      reference: page.reference,
      unit: 'ms',
      most: 1.5 * page.reference + 20,
      rule: '1.5 × DuckDB + 20 ms',
    },
    {
      what: 'server memory over idle, full run and take-away',
      cendra: peak - idle,
      reference: idle,
      unit: 'MB',
      most: 300,
      rule: '300 MB',
    },
    { what: 'the same with a quarter of the rows', cendra: small, reference: peak - idle, unit: 'MB', most: 300, rule: 'flat' },
    {
      what: 'ten calculated fields over 2 M rows, psql \\copy',
      ...calculated,
      unit: 'ms',
      most: 1.3 * calculated.reference,
      rule: '1.3 × SQL by hand',
    },
    {
      what: 'pass counts of 6 conditions over 2 M rows',
      cendra: counted.cendra,
      reference: counted.reference,
      unit: 'ms',
      most: 2.5 * counted.reference,
      rule: '2.5 × one count with all six',
    },
    {
      what: 'choices searched over 2 M distinct values',
      cendra: found.cendra,
      reference: found.reference,
      unit: 'ms',
      most: 1.5 * found.reference + 40,
      rule: '1.5 × the SQL + 40 ms',
    },
    {
      what: 'evidence of a join, 1 M × 50 k',
      ...met,
      unit: 'ms',
      most: 1.3 * met.reference,
      rule: '1.3 × one statement by hand',
    },
    {
      what: 'shares of a proposed pair, 1 M × 50 k',
      ...proposed,
      unit: 'ms',
      most: proposed.reference + 300,
      rule: 'the statement + 300 ms',
    },
    {
      what: 'first page, three joins over 2 M rows',
      ...threeHead,
      unit: 'ms',
      most: 1.15 * threeHead.reference + 30 + 0.5 * threeHead.reference,
      rule: '1.15 × + what a head run may take',
    },
    {
      what: 'full run of three joins over 2 M rows, psql \\copy',
      ...threeFull,
      unit: 'ms',
      most: 1.3 * threeFull.reference,
      rule: '1.3 × SQL by hand',
    },
    {
      what: 'three joins and a summary to 60 groups over 2 M rows',
      ...groups,
      unit: 'ms',
      most: 1.3 * groups.reference,
      rule: '1.3 × SQL by hand',
    },
    {
      what: 'union of five criteria over 2 M rows, psql \\copy',
      ...five,
      unit: 'ms',
      most: 1.3 * five.reference,
      rule: '1.3 × SQL by hand',
    },
    ...routed,
    ...written,
    ...onPaper,
    {
      what: 'proof of 1 M rows in two group levels',
      cendra: proof.cendra,
      reference: proof.reference,
      unit: 'ms',
      most: 1.5 * proof.reference,
      rule: '1.5 × DuckDB by hand',
    },
    {
      what: 'crosstab of 1 M rows, 60 × 24 with totals both ways',
      ...across,
      unit: 'ms',
      most: 1.5 * across.reference,
      rule: '1.5 × DuckDB by hand',
    },
    {
      what: 'list of datasets under 200 readers and 10 runs, median',
      cendra: load.busy.median,
      reference: load.idle.median,
      unit: 'ms',
      most: 5 * load.idle.median,
      rule: '5 × idle',
    },
    {
      what: 'the same, 95th percentile',
      cendra: load.busy.slow,
      reference: load.idle.slow,
      unit: 'ms',
      most: 5 * load.idle.slow,
      rule: '5 × idle',
    },
    { what: 'longest task, scrolling a grid of 1 M rows', cendra: longest, reference: 0, unit: 'ms', most: 50, rule: '50 ms' },
    { what: 'longest task, scrolling a crosstab of 500 columns', cendra: longestAcross, reference: 0, unit: 'ms', most: 50, rule: '50 ms' },
    { what: 'checking an expression of 200 lines at a key', cendra: typing(), reference: 0, unit: 'ms', most: 16, rule: '16 ms' },
  ];
}

/** Work through Cendra against the same by hand, in ms. */
async function compared({ work, sql }: Compared, cluster: Cluster, password: string): Promise<{ cendra: number; reference: number }> {
  return pair(5, work, () => directHead(cluster, password, sql));
}

/** A proof against the same lines made by hand by DuckDB of the same stored rows. */
async function proved(client: Client, folder: string): Promise<{ cendra: number; reference: number }> {
  const connection = await (await DuckDBInstance.create(':memory:', { threads: '2' })).connect();
  const { prepare, work, byHand } = await proofOf(client, folder, connection);
  await prepare();
  const both = await pair(3, work, byHand, prepare);
  connection.closeSync();
  return both;
}

/** A sorted page far down, against DuckDB on the same stored file sorted by hand. */
async function pages(client: Client, result: string, folder: string): Promise<{ cendra: number; reference: number }> {
  const sort = await client.sortField(result, 'weight_kg');
  // Another page each time: one that was read is remembered.
  let asked = 0;
  const ask = () => client.page(result, (10_000 + asked++) * 100, 100, sort);
  await ask();
  const instance = await DuckDBInstance.create(':memory:', { threads: '2' });
  const connection = await instance.connect();
  const stored = join(folder, 'server', 'results', result, 'rows', '*.parquet');
  const sorted = join(folder, 'sorted.parquet');
  await connection.run(
    `copy (select * from read_parquet('${stored}') order by "${sort.split(':')[0]}" desc nulls last) to '${sorted}' (format parquet)`,
  );
  const both = await pair(9, ask, async () =>
    (await connection.runAndReadAll(`select * from read_parquet('${sorted}') limit 100 offset 1000000`)).getRowsJson(),
  );
  connection.closeSync();
  return both;
}

/** Server memory over idle while running and taking away a quarter of the rows. */
async function flatness(client: Client, server: RunningServer): Promise<number> {
  const dataset = await client.readings('reading_no < 500000');
  const idle = await settled(server);
  const memory = memoryOf(server.process.pid ?? 0);
  const result = await client.run(dataset, 'full');
  await client.download(result, '/dev/null');
  return memory.stop() - idle;
}

async function settled(server: RunningServer): Promise<number> {
  await new Promise((resolve) => setTimeout(resolve, 1_500));
  const memory = memoryOf(server.process.pid ?? 0);
  return memory.stop();
}
