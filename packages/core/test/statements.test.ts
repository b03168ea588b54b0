import fc from 'fast-check';
import type { Clause, Definition, Dialect, Operand, Relation, Statement, Step, TableStep } from '../src';
import { bindValues, checkTrail, compile, duckdb, outputColumns, planCounts, planRows, postgresql, relationAfter } from '../src';
import { definition, ending, minKilos, table } from './support/harvests';

/** Whatever things are called and whatever is typed: a statement is one statement, names are quoted and values are bound. */

/** What a person might type or a source might call its columns, with all that means something to SQL. */
const hostile = fc
  .array(fc.oneof(fc.constantFrom('"', "'", ';', '--', '/*', '*/', '$1', '\\', '%', '\n', '{', '”'), fc.string({ maxLength: 6 })), {
    minLength: 1,
    maxLength: 8,
  })
  .map((parts) => parts.join('').replaceAll('\0', ''))
  .filter((each) => each.trim() !== '');

/** Marks what was typed, so that it is found again wherever it went. */
const MARKER = 'zzqx';

interface Named {
  readonly schema: string;
  readonly table: string;
  readonly column: string;
  readonly step: string;
  readonly value: string;
  readonly typed: string;
}

const named: fc.Arbitrary<Named> = fc.record({
  schema: hostile,
  table: hostile,
  column: hostile,
  step: hostile,
  value: hostile.map((each) => `${MARKER}${each}`),
  typed: hostile.map((each) => `${MARKER}${each}`),
});

function trailOf({ schema, table: name, column, step, typed }: Named): Definition {
  const read: TableStep = {
    ...(table as TableStep),
    schema,
    table: name,
    taken: ['id', 'kilos', 'grade'],
    fields: (table as TableStep).fields.map((each) => (each.id === 'grade' ? { ...each, column } : each)),
  };
  const asking = (id: string, operator: string, operand: Operand): Clause => ({
    id,
    kind: 'condition',
    off: false,
    field: 'grade',
    operator,
    operands: [operand],
    andNulls: false,
  });
  const clauses = [
    asking('a', 'one of', { kind: 'parameter', id: 'p' }),
    asking('b', 'one of', { kind: 'value', text: typed }),
    asking('c', 'contains', { kind: 'value', text: typed }),
    asking('d', 'is not', { kind: 'value', text: typed }),
  ];
  const kept: Step = { id: 'c', kind: 'criteria', name: step.slice(0, 200), off: false, inputs: ['t'], head: 'at least one', clauses };
  return ending({ ...definition, steps: [read, kept], parameters: [{ ...minKilos, type: 'text', takes: 'several', startsAs: [] }] });
}

function statementsOf(names: Named, dialect: Dialect): readonly Statement[] {
  const given = trailOf(names);
  const trail = checkTrail(given);
  const binding = bindValues(given.parameters, { p: [names.value, `${names.value}2`] }, 0n);
  const rows = planRows(relationAfter(trail, 'c', binding), outputColumns(trail, 'c'), 1_000, () => dialect);
  const relations: readonly Relation[] = [
    ...rows.stages.map((each) => each.relation),
    ...planCounts(trail, 'c', binding).segments.map((each) => each.relation),
  ];
  return relations.map((each) => compile(each, dialect, binding));
}

/** What stands outside of quoted names and texts; undefined when a quote is never closed. */
function bare(sql: string): string | undefined {
  const rest = sql.replace(/"(?:[^"]|"")*"|'(?:[^']|'')*'/g, '□');
  return /["']/.test(rest) ? undefined : rest;
}

const boundTexts = (statement: Statement) => statement.values.flatMap(({ value }) => (typeof value === 'string' ? [value] : [...value]));

describe.each([postgresql('numbered'), postgresql('settings')])('a statement for PostgreSQL, %#', (dialect) => {
  test('is one statement in which nothing that was typed stands outside of quotes', () => {
    fc.assert(
      fc.property(named, (names) => {
        for (const { text } of statementsOf(names, dialect)) {
          const rest = bare(text);
          expect(rest).toBeDefined();
          expect(rest).toMatch(/^with □/);
          expect(rest).not.toMatch(/;|--|\/\*|\\|%|[^\x20-\x7e\n□]/);
        }
      }),
      { numRuns: 300 },
    );
  });

  test('has no value in its text, and all of them among what is bound', () => {
    fc.assert(
      fc.property(named, (names) => {
        for (const statement of statementsOf(names, dialect)) {
          expect(statement.text).not.toContain(MARKER);
          expect(boundTexts(statement)).toEqual(expect.arrayContaining([names.value, names.typed]));
        }
      }),
      { numRuns: 300 },
    );
  });
});

test('lists are bound as one value each, however long they are', () => {
  const names: Named = { schema: 'coop', table: 'harvests', column: 'grade', step: 'kept', value: 'A', typed: 'B' };
  const [short] = statementsOf(names, postgresql('numbered'));
  const given = trailOf(names);
  const many = Array.from({ length: 50_000 }, (_, at) => `SM-${at}`);
  const binding = bindValues(given.parameters, { p: many }, 0n);
  const plan = planRows(relationAfter(checkTrail(given), 'c', binding), outputColumns(checkTrail(given), 'c'), 1_000, () =>
    postgresql('numbered'),
  );
  const long = compile(plan.stages[0]?.relation as Relation, postgresql('numbered'), binding);
  expect(long.text).toBe(short?.text);
  expect(long.values.some(({ value }) => typeof value !== 'string' && value.length >= 50_000)).toBe(true);
});

test('what a landed file is called in the combine engine is quoted too', () => {
  const landed: Relation = {
    node: 'landed',
    handle: 'x"; drop table t; --',
    columns: (table as TableStep).fields.map(({ id, type }) => ({ id, name: `${id}"'`, type })),
  };
  const { text } = compile(landed, duckdb, { bound: new Map(), now: 0n });
  expect(bare(text)).toBeDefined();
  expect(bare(text)).not.toMatch(/drop|;/);
});
