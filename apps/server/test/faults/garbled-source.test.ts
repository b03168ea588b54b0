import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { LIMITS } from '../../src/limits';
import { ProblemException } from '../../src/problems';
import type { CopyOutcome, Segment } from '../../src/sources';
import { postgresqlConnector } from '../../src/sources/connectors/postgresql';
import { MessageLengths } from '../../src/sources/connectors/postgresql/messages';
import type { Says } from '../support/fake-source';
import { copyEnd, copyOut, copyRow, fakeSource, lying, message, ready } from '../support/fake-source';

/** A source that sends nonsense ends the work it was asked for, and nothing else: whatever it sends, the answer is rows or a reason. */

const folder = mkdtempSync(join(tmpdir(), 'cendra-garbled-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** Over all sources: the port of one that is gone is given to another. */
let files = 0;

const settingsAt = (port: number) => ({ host: '127.0.0.1', port, database: 'd', user: 'u', tls: 'off' as const });
const STATEMENT = { text: 'select 1', values: [], columns: [] };
const LIMIT = { rows: 1_000_000, bytes: 1_000_000_000 };

/** What became of copying from a source that says this: the text of all rows, or the code of the reason. */
async function copied(says: Says): Promise<{ readonly text: string; readonly outcome: CopyOutcome } | { readonly code: string }> {
  const source = await fakeSource(says);
  const taken: Segment[] = [];
  try {
    const snapshot = await postgresqlConnector.open(settingsAt(source.port), 'secret');
    const next = () => join(folder, `${++files}.csv`);
    const sink = { next, take: async (segment: Segment) => void taken.push(segment) };
    try {
      const outcome = await snapshot.copyTo(sink, STATEMENT, LIMIT, () => undefined);
      // Each file begins with a byte order mark, which is none of the rows.
      return { text: taken.map((each) => readFileSync(each.file, 'utf8').replace(/^\uFEFF/, '')).join(''), outcome };
    } catch (error) {
      if (!(error instanceof ProblemException)) throw error;
      return { code: error.problems[0]?.code ?? '' };
    } finally {
      await snapshot.close();
    }
  } finally {
    source.stop();
  }
}

const ROWS = ['1,a\n', '2,"b, c"\n', '3,\n', `4,${'x'.repeat(300)}\n`];
const stream = Buffer.concat([copyOut, ...ROWS.map(copyRow), copyEnd(ROWS.length)]);

/** The same bytes in chunks that end wherever they end. */
const cutAt = (places: readonly number[]) => (bytes: Buffer) => {
  const ends = [...new Set(places.map((each) => each % bytes.length)), bytes.length].toSorted((a, b) => a - b);
  return ends.map((end, at) => bytes.subarray(ends[at - 1] ?? 0, end));
};

test('rows arrive whole wherever the chunks they came in end', () =>
  fc.assert(
    fc.asyncProperty(fc.array(fc.nat(stream.length - 1), { maxLength: 12 }), async (places) => {
      expect(await copied({ execute: stream, chunks: cutAt(places) })).toMatchObject({
        text: ROWS.join(''),
        outcome: { rows: ROWS.length, cut: undefined },
      });
    }),
    { numRuns: 25 },
  ));

test.each([
  ['a negative length', -1],
  ['a length that does not count itself', 3],
  ['the smallest number there is', -0x8000_0000],
  ['more than a message can have', 0x7fff_ffff],
])('a row of %s is not read on', async (_name, length) => {
  for (const chunks of [undefined, cutAt([copyOut.length + 3])])
    expect(await copied({ execute: Buffer.concat([copyOut, lying('d', length, 'x'.repeat(50))]), ...(chunks ? { chunks } : {}) })).toEqual({
      code: 'source-garbled',
    });
});

test('a message that is no row is not kept beyond what one may be long', async () => {
  const said = Buffer.concat([copyOut, copyRow('1\n'), lying('N', LIMITS.answerBytes.value + 100, 'x'.repeat(50))]);
  expect(await copied({ execute: said })).toEqual({ code: 'source-garbled' });
});

test('whatever bytes are changed, lost or left out, the end is rows or a reason', () =>
  fc.assert(
    fc.asyncProperty(
      fc.array(fc.tuple(fc.nat(stream.length - 1), fc.nat(255)), { maxLength: 4 }),
      fc.nat(stream.length),
      fc.array(fc.nat(stream.length - 1), { maxLength: 4 }),
      async (changed, end, places) => {
        const said = Buffer.from(stream.subarray(0, end));
        for (const [at, byte] of changed) if (at < said.length) said[at] = byte;
        const became = await copied({ execute: said, chunks: cutAt(places), hangUp: true });
        expect('code' in became ? became.code : became.outcome.rows).not.toBe('');
      },
    ),
    { numRuns: 60 },
  ));

test('a sign-in that is answered with an absurd length says that this is no database', async () => {
  for (const length of [-5, 0x7fff_ffff]) {
    const source = await fakeSource({ signIn: lying('R', length, 'x') });
    const answer = await postgresqlConnector.test(settingsAt(source.port), 'secret');
    expect(answer).toMatchObject({ ok: false, problem: { code: 'not-a-database' } });
    source.stop();
  }
});

test('an answer that announces more than is kept ends the connection before it comes', async () => {
  const source = await fakeSource({
    execute: Buffer.concat([message('1'), message('2'), lying('D', LIMITS.answerBytes.value + 10)]),
    query: lying('D', LIMITS.answerBytes.value + 10),
  });
  const snapshot = await postgresqlConnector.open(settingsAt(source.port), 'secret');
  await expect(snapshot.rows(STATEMENT)).rejects.toMatchObject({ problems: [{ code: 'source-answer-long' }] });
  await snapshot.close();
  source.stop();
});

test('a source that does not answer when a transaction is opened is left at once when nobody waits', async () => {
  const source = await fakeSource({ begin: null });
  const waiting = new AbortController();
  const opened = postgresqlConnector.open(settingsAt(source.port), 'secret', waiting.signal);
  setImmediate(() => waiting.abort());
  await expect(opened).rejects.toMatchObject({ problems: [{ code: 'run-cancelled' }] });
  source.stop();
});

test('lengths are followed wherever chunks end', () =>
  fc.assert(
    fc.property(fc.array(fc.nat(40), { minLength: 1, maxLength: 8 }), fc.array(fc.nat(400), { maxLength: 8 }), (sizes, places) => {
      const bytes = Buffer.concat(sizes.map((size) => message('D', 'x'.repeat(size))));
      const most = Math.max(...sizes);
      const said = (limit: number) => {
        const lengths = new MessageLengths(limit);
        return cutAt(places)(bytes).flatMap((chunk) => lengths.wrongIn(chunk) ?? []);
      };
      expect(said(most)).toEqual([]);
      if (most > 0) expect(said(most - 1)[0]).toBe('too long');
      expect(new MessageLengths(most).wrongIn(Buffer.concat([bytes, lying('Z', 1), ready()]))).toBe('garbled');
    }),
  ));
