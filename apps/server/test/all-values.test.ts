import fc from 'fast-check';
import type { ArrangeStep, Definition, Relation, Step, SummariseStep, SummaryAggregate, UnpivotStep } from '@cendra/core';
import {
  bindValues,
  checkTrail,
  columnsOf,
  compile,
  duckdb,
  emptyDefinition,
  evaluateTrail,
  expressionsOf,
  lacking,
  nodesOfRelation,
  outputColumns,
  planRows,
  postgresql,
  rebuilt,
  relationAfter,
  writeValue,
} from '@cendra/core';
import { examples } from '../../../packages/core/test/support/examples';
import { wireRow } from '../../../packages/core/test/support/wire-rows';
import { NOW } from '../../../packages/core/test/support/rows';
import { asCore, Generated, rowsOf, table } from './support/generated';

/**
 * Rows of every type, with 38 digits, odd texts, leap days and the ends of years, turned into rows, summed up, stacked and
 * arranged: core, PostgreSQL and DuckDB give the same.
 */

let places: Generated;
beforeAll(async () => {
  places = await Generated.open();
});
afterAll(() => places.close());

const text = (written: string) => ({ text: written, refs: [] });
const KEYS = [
  't1',
  'd10',
  'w1',
  'day1',
  'b1',
  'start_of_month(day1)',
  'start_of_week(day1)',
  'start_of_season(at1)',
  'start_of_quarter(z1)',
  'extract(year from day1)',
  'cast(at1 as date)',
];
const FIGURES: readonly (readonly [SummaryAggregate, readonly string[]])[] = [
  ['rows', ['']],
  ['count', ['t1', 'd10', 'z1', 'b1']],
  ['distinct count', ['t1', 'd10', 'day1', 'b1']],
  ['sum', ['d2', 'w1', 'd6']],
  ['average', ['d2', 'w1', 'd6']],
  ['median', ['d2', 'w1']],
  ['least', ['t1', 'd10', 'day1', 'at1', 'z1']],
  ['greatest', ['t2', 'd10', 'day1', 'time1']],
  ['first', ['t1', 'd10']],
  ['last', ['day1', 'w2']],
  ['joined', ['t1', 'd2', 'day1']],
  ['share', ['d2 > 0', 't1 is null']],
];
const figure = fc
  .constantFrom(...FIGURES)
  .chain(([aggregate, of]) =>
    fc.record({ aggregate: fc.constant(aggregate), of: fc.constantFrom(...of), among: fc.constantFrom('', '', "t1 > 'a'", 'b1') }),
  );

const summary = fc
  .record({
    keys: fc.uniqueArray(fc.constantFrom(...KEYS), { maxLength: 3 }),
    figures: fc.array(figure, { minLength: 1, maxLength: 4 }),
    days: fc.boolean(),
  })
  .map(({ keys, figures, days }): SummariseStep => {
    const month = keys.indexOf('start_of_month(day1)');
    const span = { from: 'days' as const, key: `k${month}`, since: text("date '2023-12-30'"), until: text("date '2024-03-01'") };
    return {
      id: 'z',
      kind: 'summarise',
      name: '',
      off: false,
      inputs: ['t'],
      keys: keys.map((of, at) => ({ id: `k${at}`, name: `k${at}`, expression: text(of) })),
      values: figures.map(({ aggregate, of, among }, at) => ({
        id: `v${at}`,
        name: `v${at}`,
        aggregate,
        expression: text(of),
        among: text(among),
        order: text(aggregate === 'first' || aggregate === 'last' ? 't2' : ''),
      })),
      ...(days && month >= 0 ? { every: { parts: [span], filledWith: '0' as const } } : {}),
    };
  });

const unpivot = fc
  .record({ fields: fc.constantFrom(['t1', 't2'], ['w1', 'w2'], ['d2', 'd6'], ['d2', 'w1'], ['t1', 'd10']), nulls: fc.boolean() })
  .map(({ fields, nulls }): UnpivotStep => ({
    id: 'z',
    kind: 'unpivot',
    name: '',
    off: false,
    inputs: ['t'],
    label: { id: 'what', name: 'what' },
    values: [{ id: 'of', name: 'of', as: fields.some((each) => each === 'd10') ? { kind: 'text' } : null }],
    lines: fields.map((field, at) => ({ id: `l${at}`, word: at === 0 ? "o'ne" : 'another', from: [field] })),
    nulls,
  }));

const sortBy = fc.record({
  field: fc.constantFrom('t1', 'd10', 'day1', 'at1', 'w1', 'f1', 'z1', 'time1'),
  descending: fc.boolean(),
  nullsFirst: fc.boolean(),
});
const arrange = fc
  .record({
    sort: fc.uniqueArray(sortBy, { minLength: 1, maxLength: 2, selector: (each) => each.field }),
    count: fc.integer({ min: 1, max: 4 }),
    ties: fc.boolean(),
    per: fc.constantFrom([], ['b1'], ['t1']),
    distinct: fc.constantFrom(null, null, ['t2'], ['d10', 'b1']),
  })
  .map(({ sort, count, ties, per, distinct }): ArrangeStep => ({
    id: 'z',
    kind: 'arrange',
    name: '',
    off: false,
    inputs: ['t'],
    sort: sort.map((each, at) => ({ id: `s${at}`, ...each })),
    first: { count: text(String(count)), ties, per },
    distinct,
    fields: null,
  }));

const inOrder = (rows: readonly (readonly (string | null)[])[]) => rows.map((each) => JSON.stringify(each)).toSorted();

test.each([
  ['summed up', summary],
  ['turned into rows', unpivot],
  ['arranged', arrange],
] as const)('rows of every type, %s, are the same in core, in the source and landed', async (_what, made) => {
  let ranLanded = 0;
  await fc.assert(
    fc.asyncProperty(fc.array(wireRow, { maxLength: 7 }), made as fc.Arbitrary<Step>, async (rows, step) => {
      await places.fill(rows);
      const taken = { ...table, taken: (table as Step & { kind: 'table' }).fields.map((each) => each.id) } as Step;
      const definition: Definition = { ...emptyDefinition('Generated'), steps: [taken, step], result: 'z' };
      const trail = checkTrail(definition);
      expect(trail.problems.filter((each) => each.severity === 'error')).toEqual([]);
      const binding = bindValues([], {}, NOW);
      const columns = outputColumns(trail, 'z');
      const own = rowsOf(rows);
      const expected = evaluateTrail(definition, 'z', binding, () => own).rows.map((row) =>
        columns.map(({ id, type }) => ((row.get(id) ?? null) === null ? null : asCore(type, writeValue(type, row.get(id) as never)))),
      );
      const plan = planRows(relationAfter(trail, 'z', binding), columns, undefined, (site) =>
        site.kind === 'combine' ? duckdb : postgresql('numbered'),
      );
      const relation = plan.stages[0]?.relation as Relation;
      const statement = compile(relation, postgresql('numbered'), binding);
      const types = columnsOf(relation);
      const pushed = await places.client.query<(string | null)[]>({
        text: statement.text,
        values: statement.values.map((each) => each.value),
        rowMode: 'array',
      });
      expect(inOrder(pushed.rows.map((row) => row.map((cell, at) => asCore(types[at]?.type, cell))))).toEqual(inOrder(expected));

      const there = rebuilt(relation, (node) =>
        node.node === 'table' ? { node: 'landed', handle: 'landed', columns: columnsOf(node) } : node,
      );
      if (nodesOfRelation(there).some((node) => expressionsOf(node).some((each) => lacking(duckdb, each) !== undefined))) return;
      ranLanded++;
      const inEngine = compile(there, duckdb, binding);
      const names = types.map((_each, at) => `c${at}`);
      const reader = await places.engine.runAndReadAll(
        `select ${names.map((each) => `cast(${each} as varchar)`).join(', ')} from (${inEngine.text}) q (${names.join(', ')})`,
        inEngine.values.map((each) => each.value as string),
      );
      expect(
        inOrder((reader.getRowsJson() as (string | null)[][]).map((row) => row.map((cell, at) => asCore(types[at]?.type, cell)))),
      ).toEqual(inOrder(expected));
    }),
    examples(60),
  );
  expect(ranLanded).toBeGreaterThan(10);
});
