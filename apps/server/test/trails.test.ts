import fc from 'fast-check';
import type { Definition, Relation, Step } from '@cendra/core';
import { examples } from '../../../packages/core/test/support/examples';
import {
  bindValues,
  checkedStep,
  checkTrail,
  columnsOf,
  compile,
  countsFrom,
  duckdb,
  emptyDefinition,
  evaluateTrail,
  outputColumns,
  HEADS,
  planCounts,
  planRows,
  postgresql,
  relationAfter,
  stageGroup,
  writeValue,
} from '@cendra/core';
import {
  conditionExpression,
  dayExpression,
  numberExpression,
  textExpression,
  windowExpression,
} from '../../../packages/core/test/support/generate';
import { wireRow } from '../../../packages/core/test/support/wire-rows';
import { ending } from '../../../packages/core/test/support/harvests';
import { NOW } from '../../../packages/core/test/support/rows';
import { asCore, claimedThroughout, Generated, key, landed, rowsOf, table } from './support/generated';

/** Generated trails of criteria and calculated fields give the same rows in core, pushed down to PostgreSQL, and landed in DuckDB; and the same counts. */

let places: Generated;
beforeAll(async () => {
  places = await Generated.open();
});
afterAll(() => places.close());

type Made =
  | { readonly kind: 'criteria'; readonly sources: readonly string[]; readonly head: (typeof HEADS)[number]; readonly off: boolean }
  | { readonly kind: 'calculate'; readonly sources: readonly string[]; readonly off: boolean };

const sourceOf = (made: typeof conditionExpression) => made.map((each) => each.source);
const value = fc.oneof(
  { weight: 3, arbitrary: windowExpression },
  numberExpression.filter((each) => each.expression.type.kind !== 'float'),
  textExpression,
  dayExpression,
  conditionExpression,
);
const made: fc.Arbitrary<Made> = fc.oneof(
  fc.record({
    kind: fc.constant('criteria' as const),
    sources: fc.array(sourceOf(conditionExpression), { minLength: 0, maxLength: 3 }),
    head: fc.constantFrom(...HEADS),
    off: fc.boolean(),
  }),
  fc.record({
    kind: fc.constant('calculate' as const),
    sources: fc.array(sourceOf(value), { minLength: 1, maxLength: 3 }),
    off: fc.nat(5).map((each) => each === 0),
  }),
);

/** Each calculate step ends with a field that tells its first one in words, so that fields build on one another. */
function trailOf(steps: readonly Made[]): Definition {
  const trail = steps.map((each, at): Step => {
    const base = { id: `c${at}`, name: '', off: each.off, inputs: [at === 0 ? 't' : `c${at - 1}`] };
    if (each.kind === 'criteria') {
      const clauses = each.sources.map((text, index) => ({
        id: `c${at}-${index}`,
        kind: 'expression' as const,
        off: false,
        expression: { text, refs: [] },
      }));
      return { ...base, kind: 'criteria', head: each.head, clauses };
    }
    const told = `coalesce(cast(x${at}_0 as text), 'none') || cast(x${at}_0 is null as text)`;
    const made = [...each.sources, told].map((text, index) => ({
      id: `x${at}_${index}`,
      name: `x${at}_${index}`,
      expression: { text, refs: [] },
    }));
    return { ...base, kind: 'calculate', fields: made };
  });
  return ending({ ...emptyDefinition('Generated'), steps: [table, ...trail] });
}

test('rows and counts agree, pushed down and landed', async () => {
  let ranLanded = 0;
  await fc.assert(
    fc.asyncProperty(
      fc.array(wireRow, { minLength: 1, maxLength: 6 }),
      fc.array(made, { minLength: 1, maxLength: 4 }),
      async (rows, steps) => {
        await places.fill(rows);
        const definition = trailOf(steps);
        const trail = checkTrail(definition);
        const last = definition.steps.at(-1)?.id ?? '';
        const binding = bindValues([], {}, NOW);
        const own = rowsOf(rows);
        const typeOf = new Map(checkedStep(trail, last)?.schema.fields.map((each) => [each.id, each.type]));
        const expected = evaluateTrail(definition, last, binding, () => own).rows.map((row) =>
          [...row].map(([id, value]) => asCore(typeOf.get(id), value === null ? null : writeValue(typeOf.get(id) ?? key.type, value))),
        );

        const plan = planRows(relationAfter(trail, last, binding), outputColumns(trail, last), undefined, (site) =>
          site.kind === 'combine' ? duckdb : postgresql('numbered'),
        );
        const relation = plan.stages[0]?.relation as Relation;
        const statement = compile(relation, postgresql('numbered'), binding);
        const pushed = await places.client.query<(string | null)[]>({
          text: `select * from (${statement.text}) q order by n`,
          values: statement.values.map((each) => each.value),
          rowMode: 'array',
        });
        const columns = columnsOf(relation);
        expect(pushed.rows.map((row) => row.map((cell, at) => asCore(columns[at]?.type, cell)))).toEqual(expected);

        const counting = planCounts(trail, last, binding);
        const groups = [];
        for (const segment of counting.segments) {
          const counts = compile(segment.relation, postgresql('numbered'), binding);
          const values = counts.values.map((each) => each.value);
          const result = await places.client.query<string[]>({ text: counts.text, values, rowMode: 'array' });
          groups.push(result.rows.map((row) => stageGroup(segment, row)));
        }
        const counted = countsFrom(counting, groups);
        expect(counted.map((each) => Number(each.rows))).toEqual(
          definition.steps.map((each) => evaluateTrail(definition, each.id, binding, () => own).rows.length),
        );

        const inEngine = landed(relation);
        if (!claimedThroughout(inEngine)) return;
        ranLanded++;
        const there = compile(inEngine, duckdb, binding);
        const reader = await places.engine.runAndReadAll(
          `select ${columns.map(({ name }) => `cast("${name}" as varchar)`).join(', ')} from (${there.text}) q order by n`,
          there.values.map((each) => each.value as string),
        );
        expect((reader.getRowsJson() as (string | null)[][]).map((row) => row.map((cell, at) => asCore(columns[at]?.type, cell)))).toEqual(
          expected,
        );
      },
    ),
    examples(90),
  );
  expect(ranLanded).toBeGreaterThan(20);
});
