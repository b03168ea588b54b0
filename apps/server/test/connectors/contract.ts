import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Relation, Statement } from '@cendra/core';
import { columnsOf, compile, problem } from '@cendra/core';
import { ProblemException } from '../../src/problems';
import type { Connector, Segment, SegmentSink, SourceSnapshot } from '../../src/sources/connectors/connector';
import { folderFor, unique } from '../support/cluster';

/** What a kind of source brings to the contract. */
export interface ContractCase {
  readonly connector: Connector;
  readonly settings: () => Readonly<Record<string, unknown>> & { readonly user: string };
  readonly secret: () => string;
  /** A readable table with at least 1 000 rows, and the name of a whole-number column in it without nulls. */
  readonly table: { readonly schema: string; readonly name: string; readonly key: string; readonly rows: number };
  /** A statement that keeps the source busy for a minute. */
  readonly slow: string;
  /** How often the table stands on itself for its rows to come in several segments. */
  readonly fold: number;
  /** A statement of one row of more than 20 MB. */
  readonly giant: string;
  /** Two statements in one text. */
  readonly stacked: string;
  /** Whether anything of Cendra's works in the source now. */
  readonly busy: () => Promise<boolean>;
  readonly wrong: readonly (readonly [
    what: string,
    change: Readonly<Record<string, unknown>> & { readonly secret?: string },
    code: string,
  ])[];
}

const limits = { rows: 1e9, bytes: 1e12 };

/** The promises of every connector, whatever it connects to. */
export function connectorContract(name: string, given: ContractCase): void {
  const { connector, table } = given;
  const open = () => connector.open(given.settings(), given.secret());
  const plain = (text: string): Statement => ({ text, values: [], columns: [] });
  /** Segments as they come, in files of the test's folder. */
  const sink = (taken: Segment[] = []): SegmentSink => ({
    next: () => join(folderFor('copy'), unique('rows')),
    take: async (segment) => void taken.push(segment),
  });
  const codeOf = (work: Promise<unknown>) =>
    work.then(
      () => 'none',
      (error: unknown) => (error instanceof ProblemException ? error.problems[0]?.code : String(error)),
    );
  const read = async (relation: Relation) => compile(relation, connector.dialect, { bound: new Map(), now: 0n });

  async function withSnapshot<T>(use: (snapshot: SourceSnapshot) => Promise<T>): Promise<T> {
    const snapshot = await open();
    try {
      return await use(snapshot);
    } finally {
      await snapshot.close();
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
    test('it says how many rows it expects of a statement without running it', async () => {
      await withSnapshot(async (snapshot) => {
        const all = await snapshot.estimate(plain(`select * from ${table.schema}.${table.name}`));
        expect(Number(all)).toBeGreaterThan(table.rows / 10);
        expect(Number(all)).toBeLessThan(table.rows * 10);
        expect(await snapshot.estimate(plain(given.slow))).toBeDefined();
        // The moment goes on afterwards.
        expect((await snapshot.rows(plain(`select count(*) from ${table.schema}.${table.name}`)))[0]).toBeDefined();
      });
    });

    test('passes a test with who and which version', async () => {
      expect(await connector.test(given.settings(), given.secret())).toMatchObject({
        ok: true,
        user: given.settings().user,
        server: expect.stringMatching(/\d/) as string,
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
      await withSnapshot(async (snapshot) => {
        const head = await snapshot.copyTo(sink(), await read({ node: 'limit', input, count: 100 }), limits, () => undefined);
        expect(head).toMatchObject({ rows: 100, cut: undefined });
        const taken: Segment[] = [];
        const full = await snapshot.copyTo(sink(taken), await read(input), limits, () => undefined);
        expect(full.rows).toBe(table.rows);
        expect(taken.reduce((sum, each) => sum + each.rows, 0)).toBe(full.rows);
        // Each file begins with a byte order mark, which is none of the rows.
        expect(taken.reduce((sum, each) => sum + readFileSync(each.file).length - 3, 0)).toBe(full.bytes);
        expect(await snapshot.rows(await read({ node: 'group', input, keys: [], counts: [{ id: 'rows' }] }))).toEqual([
          [String(table.rows)],
        ]);
      });
    });

    test('cuts at a limit of rows or bytes, says so, and can be used on', async () => {
      const input = await tableRelation();
      await withSnapshot(async (snapshot) => {
        expect(await snapshot.copyTo(sink(), await read(input), { ...limits, rows: 10 }, () => undefined)).toMatchObject({
          rows: 10,
          cut: 'rows',
        });
      });
      await withSnapshot(async (snapshot) => {
        const outcome = await snapshot.copyTo(sink(), await read(input), { ...limits, bytes: 1_000 }, () => undefined);
        expect(outcome.cut).toBe('bytes');
        expect(outcome.bytes).toBeLessThanOrEqual(1_000);
      });
    });

    test('stops at the source when cancelled', async () => {
      const snapshot = await open();
      const running = codeOf(snapshot.copyTo(sink(), plain(given.slow), limits, () => undefined));
      await untilTrue(given.busy);
      await snapshot.cancel();
      expect(await running).toBe('run-cancelled');
      await snapshot.close();
      await untilTrue(async () => !(await given.busy()));
    });

    test('stops whenever it is cancelled, also while a statement is just being sent', async () => {
      for (const delay of [0, 1, 2, 4, 8, 16, 32]) {
        const snapshot = await open();
        const running = codeOf(snapshot.copyTo(sink(), plain(given.slow), limits, () => undefined));
        await new Promise((resolve) => setTimeout(resolve, delay));
        await snapshot.cancel();
        expect(await running).toBe('run-cancelled');
        await snapshot.close();
      }
      await untilTrue(async () => !(await given.busy()));
    });

    test('leaves nothing working when closed in the middle', async () => {
      const snapshot = await open();
      const running = codeOf(snapshot.rows(plain(given.slow)));
      await untilTrue(given.busy);
      await snapshot.cancel();
      await snapshot.close();
      await running;
      await untilTrue(async () => !(await given.busy()));
    });

    test('runs one statement at a time and writes nothing', async () => {
      expect(await codeOf(withSnapshot((snapshot) => snapshot.copyTo(sink(), plain(given.stacked), limits, () => undefined)))).toBe(
        'statement-failed',
      );
      expect(await codeOf(withSnapshot((snapshot) => snapshot.rows(plain(given.stacked))))).toBe('statement-failed');
      const tables = await connector.tables(given.settings(), given.secret());
      expect(tables.some((each) => each.name.startsWith('stacked'))).toBe(false);
    });

    test('gives segments in order, waits for those that take long, and ends the statement when one cannot be taken', async () => {
      const input = await tableRelation();
      const statement = await read({ node: 'union', inputs: Array.from({ length: given.fold }, () => input), columns: columnsOf(input) });
      const order: number[] = [];
      await withSnapshot(async (snapshot) => {
        let taking = 0;
        const slowly: SegmentSink = {
          next: sink().next,
          take: async ({ rows, file }) => {
            expect(++taking).toBe(1);
            await new Promise((resolve) => setImmediate(resolve));
            order.push(rows);
            expect(readFileSync(file).length).toBeGreaterThan(0);
            taking--;
          },
        };
        const { rows } = await snapshot.copyTo(slowly, statement, limits, () => undefined);
        expect([rows, order.reduce((sum, each) => sum + each, 0)]).toEqual([given.fold * table.rows, given.fold * table.rows]);
        expect(order.length).toBeGreaterThan(2);
      });
      const full: SegmentSink = {
        next: sink().next,
        take: () => Promise.reject(new ProblemException(507, [problem('disk-full', 'The disk is full.')])),
      };
      expect(await codeOf(withSnapshot((snapshot) => snapshot.copyTo(full, statement, limits, () => undefined)))).toBe('disk-full');
      await untilTrue(async () => !(await given.busy()));
    });

    test('takes no row longer than the limit of bytes, and does not gather it first', async () => {
      const outcome = await withSnapshot((snapshot) =>
        snapshot.copyTo(sink(), plain(given.giant), { ...limits, bytes: 1_000_000 }, () => undefined),
      );
      expect(outcome).toEqual({ rows: 0, bytes: 0, cut: 'bytes' });
      const taken: Segment[] = [];
      const whole = await withSnapshot((snapshot) => snapshot.copyTo(sink(taken), plain(given.giant), limits, () => undefined));
      expect([whole.rows, taken[0]?.longestRow]).toEqual([1, whole.bytes]);
      expect(whole.bytes).toBeGreaterThan(20_000_000);
    });

    test('opens further connections at the same moment', async () => {
      const input = await tableRelation();
      await withSnapshot(async (snapshot) => {
        const beside = await snapshot.session();
        try {
          const count = await read({ node: 'group', input, keys: [], counts: [{ id: 'rows' }] });
          const [own, other] = await Promise.all([snapshot.rows(count), beside.rows(count)]);
          expect(own).toEqual(other);
          expect(beside.asOf).toEqual(snapshot.asOf);
        } finally {
          await beside.close();
        }
      });
    });

    test('keeps one moment through all its statements', async () => {
      const input = await tableRelation();
      await withSnapshot(async (snapshot) => {
        const count = await read({ node: 'group', input, keys: [], counts: [{ id: 'rows' }] });
        expect(await snapshot.rows(count)).toEqual(await snapshot.rows(count));
        expect(Math.abs(snapshot.asOf.getTime() - Date.now())).toBeLessThan(60_000);
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
