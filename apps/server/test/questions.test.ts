import fc from 'fast-check';
import type { Clause, Definition, Questioning, WantedRows, WireRow as Row } from '@cendra/core';
import {
  answered,
  beginQuestion,
  bindValues,
  checkTrail,
  compile,
  duckdb,
  emptyDefinition,
  HEADS,
  planRows,
  postgresql,
} from '@cendra/core';
import { examples } from '../../../packages/core/test/support/examples';
import { conditionExpression } from '../../../packages/core/test/support/generate';
import { wireRow } from '../../../packages/core/test/support/wire-rows';
import { answerIn } from '../../../packages/core/test/support/relations';
import { ending } from '../../../packages/core/test/support/harvests';
import { NOW } from '../../../packages/core/test/support/rows';
import { claimedThroughout, Generated, landed, rowsOf, table } from './support/generated';

/** Clause counts, and the clauses that exclude each other, are the same in core, PostgreSQL and DuckDB. */

let places: Generated;
beforeAll(async () => {
  places = await Generated.open();
});
afterAll(() => places.close());

const single = conditionExpression.map((each): Clause => ({
  id: '',
  kind: 'expression',
  off: false,
  expression: { text: each.source, refs: [] },
}));
const clauses = fc
  .array(
    fc.oneof(
      { weight: 3, arbitrary: single },
      fc
        .record({ head: fc.constantFrom(...HEADS), clauses: fc.array(single, { minLength: 1, maxLength: 3 }) })
        .map((each): Clause => ({ id: '', kind: 'group', off: false, ...each })),
    ),
    { minLength: 1, maxLength: 6 },
  )
  .map((all) => all.map((each, at) => numbered(each, String(at))));

const numbered = (clause: Clause, id: string): Clause =>
  clause.kind === 'group' ? { ...clause, id, clauses: clause.clauses.map((each, at) => numbered(each, `${id}.${at}`)) } : { ...clause, id };

const datasetOf = (head: (typeof HEADS)[number], all: readonly Clause[]): Definition =>
  ending({
    ...emptyDefinition('Generated'),
    steps: [table, { id: 'c', kind: 'criteria', name: '', off: false, inputs: ['t'], head, clauses: all }],
  });

test('clause counts agree in core, pushed down and landed', async () => {
  let ranLanded = 0;
  await fc.assert(
    fc.asyncProperty(fc.constantFrom(...HEADS), clauses, fc.array(wireRow, { minLength: 1, maxLength: 8 }), async (head, all, rows) => {
      await places.fill(rows);
      const definition = datasetOf(head, all);
      const binding = bindValues([], {}, NOW);
      const asking = (): Questioning<unknown> =>
        beginQuestion({ trail: checkTrail(definition), binding, others: new Map() }, { kind: 'clauses', step: 'c' });
      const planned = ({ relation, columns, limit }: WantedRows) =>
        planRows(relation, columns, limit, (site) => (site.kind === 'combine' ? duckdb : postgresql('numbered'))).stages[0]?.relation;
      const pushed = async (wanted: WantedRows): Promise<readonly Row[]> => {
        const relation = planned(wanted);
        if (!relation) throw new Error('the plan is empty');
        const { text, values } = compile(relation, postgresql('numbered'), binding);
        const types = { getTypeParser: () => (value: string) => value };
        return (await places.client.query<(string | null)[]>({ text, values: values.map((each) => each.value), rowMode: 'array', types }))
          .rows;
      };
      const inCore = answerIn(asking(), rowsOf(rows), binding).answer;
      expect(withoutExamples(await answered(asking(), pushed))).toEqual(withoutExamples(inCore));

      const inEngine = async (wanted: WantedRows): Promise<readonly Row[]> => {
        const relation = planned(wanted);
        if (!relation || !claimedThroughout(landed(relation))) return unclaimed();
        const { text, values } = compile(landed(relation), duckdb, binding);
        const names = wanted.columns.map((_, at) => `c${at}`);
        const reader = await places.engine.runAndReadAll(
          `select ${names.map((name) => `cast(${name} as varchar)`).join(', ')} from (${text}) q(${names.join(', ')})`,
          values.map((each) => each.value as string),
        );
        return reader.getRowsJson() as (string | null)[][];
      };
      const there = await answered(asking(), inEngine).catch((error: unknown) => {
        if (error instanceof Unclaimed) return undefined;
        throw error;
      });
      if (there === undefined) return;
      ranLanded++;
      expect(withoutExamples(there)).toEqual(withoutExamples(inCore));
    }),
    examples(60),
  );
  expect(ranLanded).toBeGreaterThan(10);
});

class Unclaimed extends Error {}
const unclaimed = (): never => {
  throw new Unclaimed();
};

/** Which of several fitting rows is the example is up to the engine; that there is one for each clause is not. */
function withoutExamples(answer: unknown): unknown {
  return JSON.parse(JSON.stringify(answer, (key, value: unknown) => (key === 'values' ? undefined : value)));
}
