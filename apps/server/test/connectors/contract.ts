import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Relation, Statement } from '@cendra/core';
import { compile } from '@cendra/core';
import { ProblemException } from '../../src/problems';
import type { ConnectionSettings, Connector, SourceSnapshot } from '../../src/sources/connectors/connector';
import { folderFor, unique } from '../support/cluster';

/** What a kind of source brings to the contract. */
export interface ContractCase {
  readonly connector: Connector;
  readonly settings: () => ConnectionSettings;
  readonly secret: () => string;
  /** A readable table with at least 1 000 rows, and the name of a whole-number column in it without nulls. */
  readonly table: { readonly schema: string; readonly name: string; readonly key: string; readonly rows: number };
  /** A statement that keeps the source busy for a minute. */
  readonly slow: string;
  /** Two statements in one text. */
  readonly stacked: string;
  /** Whether anything of Cendra's works in the source now. */
  readonly busy: () => Promise<boolean>;
  readonly wrong: readonly (readonly [what: string, change: Partial<ConnectionSettings> & { readonly secret?: string }, code: string])[];
}

const limits = { rows: 1e9, bytes: 1e12 };

/** The promises of every connector, whatever it connects to. */
export function connectorContract(name: string, given: ContractCase): void {
  const { connector, table } = given;
  const open = () => connector.open(given.settings(), given.secret());
  const plain = (text: string): Statement => ({ text, values: [], columns: [] });
  const file = () => join(folderFor('copy'), unique('rows'));
  const codeOf = (work: Promise<unknown>) =>
    work.then(
      () => 'none',
      (error: unknown) => (error instanceof ProblemException ? error.problems[0]?.code : String(error)),
    );
  const read = async (relation: Relation) => compile(relation, connector.dialect, { bound: new Map(), now: 0n });

  async function withMoment<T>(use: (moment: SourceSnapshot) => Promise<T>): Promise<T> {
    const moment = await open();
    try {
      return await use(moment);
    } finally {
      await moment.close();
    }
  }

  async function tableRelation(): Promise<Relation> {
    const described = await connector.describe(given.settings(), given.secret(), table.schema, table.name);
    if (!described) throw new Error('the contract table is missing');
    const columns = described.columns.map(({ name: column, type, sourceType, looseText }) => ({
      id: column,
      name: column,
      column,
      type,
      sourceType,
      looseText,
    }));
    return { node: 'table', site: { kind: 'source', source: 's' }, schema: table.schema, table: table.name, columns };
  }

  describe(`the connector for ${name}`, () => {
    test('passes a test with who and which version', async () => {
      expect(await connector.test(given.settings(), given.secret())).toMatchObject({
        ok: true,
        user: given.settings().user,
        version: expect.stringMatching(/\d/) as string,
      });
    });

    test.each(given.wrong)('says what is wrong with %s', async (_, { secret, ...change }, code) => {
      const settings = { ...given.settings(), ...change };
      expect(await connector.test(settings, secret ?? given.secret())).toMatchObject({ ok: false, problem: { code } });
      expect(await codeOf(connector.open(settings, secret ?? given.secret()))).toBe(code);
    });

    test('lists the table and describes it', async () => {
      const tables = await connector.tables(given.settings(), given.secret());
      expect(tables.map((each) => `${each.schema}.${each.name}`)).toContain(`${table.schema}.${table.name}`);
      const described = await connector.describe(given.settings(), given.secret(), table.schema, table.name);
      expect(described?.columns.find((each) => each.name === table.key)?.type).toEqual({ kind: 'whole' });
      expect(await connector.describe(given.settings(), given.secret(), table.schema, unique('nothing'))).toBeUndefined();
    });

    test('gives the head of a table through its limit, and all of it', async () => {
      const input = await tableRelation();
      await withMoment(async (moment) => {
        const head = await moment.copyTo(file(), await read({ node: 'limit', input, count: 100 }), limits, () => undefined);
        expect(head).toMatchObject({ rows: 100, cut: undefined });
        const path = file();
        const full = await moment.copyTo(path, await read(input), limits, () => undefined);
        expect(full.rows).toBe(table.rows);
        expect(readFileSync(path).length).toBe(full.bytes);
        expect(await moment.rows(await read({ node: 'group', input, keys: [], counts: [{ id: 'rows' }] }))).toEqual([[String(table.rows)]]);
      });
    });

    test('cuts at a limit of rows or bytes, says so, and can be used on', async () => {
      const input = await tableRelation();
      await withMoment(async (moment) => {
        expect(await moment.copyTo(file(), await read(input), { ...limits, rows: 10 }, () => undefined)).toMatchObject({
          rows: 10,
          cut: 'rows',
        });
      });
      await withMoment(async (moment) => {
        const outcome = await moment.copyTo(file(), await read(input), { ...limits, bytes: 1_000 }, () => undefined);
        expect(outcome.cut).toBe('bytes');
        expect(outcome.bytes).toBeLessThanOrEqual(1_000);
      });
    });

    test('stops at the source when cancelled', async () => {
      const moment = await open();
      const running = codeOf(moment.copyTo(file(), plain(given.slow), limits, () => undefined));
      await untilTrue(given.busy);
      await moment.cancel();
      expect(await running).toBe('run-cancelled');
      await moment.close();
      await untilTrue(async () => !(await given.busy()));
    });

    test('stops whenever it is cancelled, also while a statement is just being sent', async () => {
      for (const delay of [0, 1, 2, 4, 8, 16, 32]) {
        const moment = await open();
        const running = codeOf(moment.copyTo(file(), plain(given.slow), limits, () => undefined));
        await new Promise((resolve) => setTimeout(resolve, delay));
        await moment.cancel();
        expect(await running).toBe('run-cancelled');
        await moment.close();
      }
      await untilTrue(async () => !(await given.busy()));
    });

    test('leaves nothing working when closed in the middle', async () => {
      const moment = await open();
      const running = codeOf(moment.rows(plain(given.slow)));
      await untilTrue(given.busy);
      await moment.cancel();
      await moment.close();
      await running;
      await untilTrue(async () => !(await given.busy()));
    });

    test('runs one statement at a time and writes nothing', async () => {
      expect(await codeOf(withMoment((moment) => moment.copyTo(file(), plain(given.stacked), limits, () => undefined)))).toBe(
        'statement-failed',
      );
      expect(await codeOf(withMoment((moment) => moment.rows(plain(given.stacked))))).toBe('statement-failed');
      const tables = await connector.tables(given.settings(), given.secret());
      expect(tables.some((each) => each.name.startsWith('stacked'))).toBe(false);
    });

    test('keeps one moment through all its statements', async () => {
      const input = await tableRelation();
      await withMoment(async (moment) => {
        const count = await read({ node: 'group', input, keys: [], counts: [{ id: 'rows' }] });
        expect(await moment.rows(count)).toEqual(await moment.rows(count));
        expect(Math.abs(moment.asOf.getTime() - Date.now())).toBeLessThan(60_000);
      });
    });
  });
}

async function untilTrue(ask: () => Promise<boolean>): Promise<void> {
  for (let tries = 0; tries < 500; tries++) {
    if (await ask()) return;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
  throw new Error('it never came true');
}
