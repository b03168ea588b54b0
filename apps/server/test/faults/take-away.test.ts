import { readdirSync } from 'node:fs';
import { connect } from 'node:net';
import type { Socket } from 'node:net';
import { join } from 'node:path';
import ExcelJS from 'exceljs';
import type { DatasetBody, Person, ProblemBody } from '../support/cendra';
import { Cendra, ended, eventually, run, startFull } from '../support/cendra';
import { unique, withSuperuser } from '../support/cluster';
import { datasetOf } from '../support/datasets';
import type { OwnReader } from '../support/own-reader';
import { ownReader, sourceAs } from '../support/own-reader';
import { closeRelays, relay } from '../support/relay';

/** Rows that leave: who took them is known, slow readers hold nobody up, and a right that is taken away ends it. */

let cendra: Cendra;
let analyst: Person;
let steward: Person;
let reader: OwnReader;
let big: DatasetBody;
let bigResult: string;
const table = unique('hostile');
beforeAll(async () => {
  await withSuperuser('cooperative', (client) =>
    client.query(
      `create table coop.${table} (id int primary key, "=1+1" text); insert into coop.${table} values (1, 'a' || chr(65534) || 'b'); grant select on coop.${table} to cendra_read`,
    ),
  );
  cendra = await Cendra.start({ limits: { unreadTime: 3_000 } });
  [analyst, steward] = [await cendra.signIn('analyst'), await cendra.signIn('steward')];
  reader = await ownReader(cendra);
  big = await datasetOf(analyst, reader.source, 'scale_readings');
  bigResult = (await run(analyst, big, 'full')).result?.id ?? '';
});
const sockets: Socket[] = [];
afterEach(() => {
  for (const each of sockets.splice(0)) each.destroy();
  closeRelays();
});
afterAll(async () => {
  await cendra.stop();
  await withSuperuser('cooperative', (client) => client.query(`drop table coop.${table}`));
});

const file = (result: string, format = 'csv') => `/results/${result}/file?format=${format}`;

/** Asks for a file over a connection of its own and reads only as long as it is told to. */
async function asking(path: string): Promise<{ readonly socket: Socket; readonly closed: () => boolean }> {
  const { hostname, port } = new URL(cendra.address);
  const socket = connect(Number(port), hostname);
  sockets.push(socket);
  let closed = false;
  socket.on('error', () => undefined).on('close', () => (closed = true));
  socket.write(`GET /api${path} HTTP/1.1\r\nhost: ${hostname}\r\ncookie: ${analyst.cookie}\r\n\r\n`);
  await new Promise<void>((resolve) => socket.once('data', () => resolve()));
  socket.pause();
  return { socket, closed: () => closed };
}

test('who took rows away, and in which format, is in the audit log', async () => {
  expect((await analyst.ask('GET', file(bigResult))).status).toBe(200);
  const noted = await steward.get<readonly { act: string; subject: string; detail: object }[]>('/audit');
  expect(noted).toContainEqual(expect.objectContaining({ act: 'took away', subject: `result ${bigResult}` }));
});

test('readers who do not read keep nobody else from a download', async () => {
  for (let reading = 0; reading < 6; reading++) await asking(file(bigResult));
  expect((await analyst.ask('GET', file(bigResult))).status).toBe(200);
});

test('a reader who takes nothing of a download for a while is let go of, with its file', async () => {
  await asking(file(bigResult));
  const files = () => readdirSync(join(cendra.dataFolder, 'results', bigResult)).filter((each) => each.startsWith('making-'));
  expect(files().length).toBeGreaterThan(0);
  await eventually('the server has let go', async () => files().length === 0);
});

test('a name that a spreadsheet would take for a formula is a text, and what XML cannot say is written as spreadsheets write it', async () => {
  const dataset = await datasetOf(analyst, reader.source, table);
  const result = (await run(analyst, dataset, 'full')).result?.id ?? '';
  expect((await analyst.ask('GET', file(result))).text.split('\n')[0]).toBe("id,'=1+1");
  const response = await fetch(`${cendra.address}/api${file(result, 'xlsx')}`, { headers: { cookie: analyst.cookie } });
  const workbook = new ExcelJS.Workbook();
  await workbook.xlsx.load((await response.arrayBuffer()) as unknown as ExcelJS.Buffer);
  expect(workbook.getWorksheet('Rows')?.getCell('B2').value).toBe('a_xFFFE_b');
});

test('a source that is taken away ends what is being read of it: a run and a download', async () => {
  const { port, stall, goOn } = await relay();
  const through = await sourceAs(cendra, reader.user, port);
  const slow = await datasetOf(analyst, through, 'scale_readings');
  const result = (await run(analyst, slow, 'full')).result?.id ?? '';
  const { socket, closed } = await asking(file(result));
  const started = await startFull(analyst, slow);
  await eventually('the source works', async () => (await reader.atWork()) > 0);
  stall();
  await steward.ask('PUT', `/sources/${through}/access`, { people: [] });
  await goOn();
  await eventually('nothing is read any more', async () => (await reader.atWork()) === 0);
  await steward.ask('PUT', `/sources/${through}/access`, { people: [analyst.id] });
  expect((await ended(analyst, started.id)).state).toBe('cancelled');
  socket.resume();
  await eventually('the download is broken off', async () => closed());
});

const openTo = (people: readonly string[]) => steward.ask('PUT', `/sources/${reader.source}/access`, { people });

test('a right taken away while a file is being made ends it before anything of it leaves', async () => {
  const files = () => readdirSync(join(cendra.dataFolder, 'results', bigResult)).filter((each) => each.startsWith('making-'));
  const asked = analyst.ask<ProblemBody>('GET', file(bigResult, 'xlsx'));
  await eventually('the file is being made', async () => files().length > 0);
  await openTo([]);
  const answer = await asked;
  expect([answer.status, answer.body.type]).toEqual([404, 'not-found']);
  await eventually('nothing is left of it', async () => files().length === 0);
  await openTo([analyst.id]);
});

test('and what is asked of the source meanwhile, which stops there', async () => {
  const view = unique('asleep');
  await withSuperuser('cooperative', (client) =>
    client.query(
      `create view coop.${view} as select pg_sleep(1)::text from generate_series(1, 600); grant select on coop.${view} to cendra_read`,
    ),
  );
  const asked = analyst.ask<ProblemBody>('GET', `/sources/${reader.source}/tables/coop/${view}/count`);
  await eventually('it is counted', async () => (await reader.atWork()) > 0);
  await openTo([]);
  const answer = await asked;
  expect([answer.status, answer.body.type]).toEqual([404, 'not-found']);
  await eventually('nothing is counted any more', async () => (await reader.atWork()) === 0);
  await openTo([analyst.id]);
  await withSuperuser('cooperative', (client) => client.query(`drop view coop.${view}`));
});
