import fc from 'fast-check';
import type { Definition, Relation, Step, TableField, TableRows, TableStep, Value } from '../../src';
import { emptyDefinition, ofWhole, SWITCHES, text, whole, writtenName } from '../../src';
import { arrivingFrom, numbersOf, rarely } from './graph-fields';
import type { MadeJoined } from './joined';
import { joinOf, lookupOf, madeJoin, madeLookup } from './joined';
import type { MadeSheet } from './line-sheets';
import { madeSheet, sheetOf } from './line-sheets';
import { meetStep } from './made-up-kind';
import type { MadeSummed } from './summed';
import { madeSummary, madeUnion, stackOf, summaryOf } from './summed';
import type { MadeTurned } from './turned';
import { madeTurned, turnedStep } from './turned';

/** Generated graphs of steps over up to three sources: chains, trees, diamonds, empty slots, steps that are off, several lanes. */

export interface Graph {
  readonly definition: Definition;
  /** Rows of each table by its name, one value per column. */
  readonly rows: Readonly<Record<string, readonly ReadonlyMap<string, Value>[]>>;
}

/** Rows of the graph's tables, by column, as the naive evaluator takes them. */
export const tablesOf =
  ({ rows }: Graph): TableRows =>
  (_source, _schema, table) =>
    rows[table] ?? [];

/** Rows of a table by field id, as relations have them. */
export const leavesOf =
  ({ rows }: Graph) =>
  (leaf: Relation & { node: 'table' | 'landed' }) =>
    leaf.node === 'table'
      ? (rows[leaf.table] ?? []).map((row) => new Map(leaf.columns.map((each) => [each.id, row.get(each.column) ?? null])))
      : [];

const SOURCES = ['s1', 's2', 's3'];

type Made =
  | MadeTurned
  | MadeJoined
  | MadeSummed
  | MadeSheet
  | { readonly kind: 'criteria'; readonly on: number; readonly least: number; readonly off: boolean }
  | { readonly kind: 'calculate'; readonly on: number; readonly plus: number; readonly off: boolean }
  | { readonly kind: 'meet'; readonly on: number; readonly with: number; readonly off: boolean; readonly empty: boolean };

const made: fc.Arbitrary<Made> = fc.oneof(
  madeTurned,
  fc.record({ kind: fc.constant('criteria' as const), on: fc.nat(20), least: fc.integer({ min: 0, max: 4 }), off: rarely(4) }),
  fc.record({ kind: fc.constant('calculate' as const), on: fc.nat(20), plus: fc.integer({ min: 0, max: 3 }), off: rarely(4) }),
  madeJoin,
  madeLookup,
  madeSummary,
  madeUnion,
  madeSheet,
  fc.record({ kind: fc.constant('meet' as const), on: fc.nat(20), with: fc.nat(20), off: rarely(6), empty: rarely(8) }),
);

const row = fc.record({
  n: fc.option(fc.integer({ min: 0, max: 5 }), { freq: 6 }),
  w: fc.constantFrom('a', 'b', ' a', 'A', '1', '01', '00', '', '1.0'),
});

export const graph: fc.Arbitrary<Graph> = fc
  .record({
    tables: fc.array(fc.nat(2), { minLength: 1, maxLength: 3 }),
    steps: fc.array(made, { maxLength: 6 }),
    result: fc.nat(20),
    rows: fc.array(fc.array(row, { maxLength: 6 }), { minLength: 3, maxLength: 3 }),
  })
  .map(({ tables, steps, result, rows }) => {
    const all: Step[] = tables.map((source, at) => tableNamed(`t${at}`, SOURCES[source] ?? 's1'));
    for (const each of steps) all.push(stepOf(each, all, `k${all.length}`));
    const definition: Definition = {
      ...emptyDefinition('Generated'),
      steps: all,
      result: all[result % all.length]?.id ?? null,
      watched: WATCHED,
    };
    return { definition, rows: Object.fromEntries(tables.map((_source, at) => [`t${at}`, valuesOf(rows[at] ?? [])])) };
  });

/** Two tables of one source that meet by a text, and by a number where `pairs` says so. */
export const joinedTables: fc.Arbitrary<Graph> = fc
  .record({
    overlooks: fc.subarray([...SWITCHES], { maxLength: 2 }),
    pairs: fc.constantFrom(1, 1, 2),
    nullsMeet: fc.boolean(),
    rows: fc.array(fc.array(row, { minLength: 3, maxLength: 9 }), { minLength: 2, maxLength: 2 }),
  })
  .map(({ overlooks, pairs, nullsMeet, rows }) => {
    const tables: Step[] = [tableNamed('t0', 's1'), tableNamed('t1', 's1')];
    const text = { how: 'texts', comparison: '=', overlooks, nullsMeet, left: 0, right: 0 } as const;
    const made = { on: 0, with: 1, off: false, keeps: { met: true, left: true, right: true }, one: false } as const;
    const both = [text, { ...text, how: 'numbers' as const, left: 1, right: 1 }];
    const join = stepOf({ ...made, kind: 'join', pairs: both.slice(0, pairs) }, tables, 'k');
    const definition: Definition = { ...emptyDefinition('Generated'), steps: [...tables, join], result: 'k' };
    return { definition, rows: { t0: valuesOf(rows[0] ?? []), t1: valuesOf(rows[1] ?? []) } };
  });

const WATCHED: NonNullable<Definition['watched']> = [
  { field: 't0-n', aggregate: 'sum' },
  { field: 't0-w', aggregate: 'distinct count' },
];

const valuesOf = (rows: readonly { readonly n: number | null; readonly w: string }[]) =>
  rows.map(
    ({ n, w }, at) =>
      new Map<string, Value>([
        ['id', ofWhole(BigInt(at + 1))],
        ['n', n === null ? null : ofWhole(BigInt(n))],
        ['w', w],
      ]),
  );

function tableNamed(id: string, source: string): TableStep {
  const field = (column: string, type: TableField['type'], sourceType: string): TableField => ({
    id: `${id}-${column}`,
    column,
    sourceType,
    type,
    role: 'attribute',
    looseText: false,
  });
  const fields = [field('id', whole, 'bigint'), field('n', whole, 'bigint'), field('w', text, 'text')];
  const taken = fields.map((each) => each.id);
  const keys = [[`${id}-id`]];
  return { id, kind: 'table', name: '', off: false, inputs: [], source, schema: 'x', table: id, fields, taken, keys };
}

/** Sums are decimals, and meet no whole numbers. */
const wholeOf = (ids: readonly string[]) => ids.filter((each) => !each.includes('-f'));

/** The fields a step gives a name to. */
function namedFields(step: Step): readonly { readonly id: string; readonly name: string }[] {
  switch (step.kind) {
    case 'lookup':
      return step.partners.flatMap(({ fields }) => fields);
    case 'summarise':
      return [...step.keys, ...step.values];
    case 'unpivot':
      return step.values;
    case 'line sheet':
      return Object.values(step.names);
    case 'calculate':
    case 'join':
    case 'union':
      return step.fields;
    default:
      return [];
  }
}

function stepOf(made: Made, all: readonly Step[], id: string): Step {
  const on = all[made.on % all.length] as Step;
  const numbers = numbersOf(on, all);
  const field = numbers[made.on % numbers.length] ?? 'none';
  const base = { id, name: '', off: made.off };
  if (made.kind === 'criteria') {
    const operands = [{ kind: 'value' as const, text: String(made.least) }];
    const clause = { id: `${id}-c`, kind: 'condition' as const, off: false, field, operator: 'at least', operands, andNulls: false };
    return { ...base, kind: 'criteria', inputs: [on.id], head: 'every one', clauses: [clause] } as unknown as Step;
  }
  if (made.kind === 'calculate') {
    const named = all.flatMap(namedFields);
    const name = writtenName('field', named.find((each) => each.id === field)?.name ?? 'x');
    const expression = { text: `${name} + ${made.plus}`, refs: [{ kind: 'field' as const, id: field, from: 0, to: name.length }] };
    return { ...base, kind: 'calculate', inputs: [on.id], fields: [{ id: `${id}-f`, name: `f_${id}`, expression }] };
  }
  if (made.kind === 'unpivot' || made.kind === 'arrange') return turnedStep(made, on, arrivingFrom(all, on)(on).schema, id);
  if (made.kind === 'union') return stackOf(made, on, all, id);
  if (made.kind === 'summarise') return summaryOf(made, on, all, id);
  if (made.kind === 'line sheet') return sheetOf(made, on, all, id);
  if (made.kind === 'join') return joinOf(made, on, all, id);
  if (made.kind === 'lookup') return lookupOf(made, on, all, id);
  const other = all[made.with % all.length] as Step;
  const theirs = wholeOf(numbersOf(other, all));
  const own = wholeOf(numbers);
  const by: readonly [string, string] = [own[made.on % own.length] ?? 'none', theirs[made.with % theirs.length] ?? 'none'];
  const brought = theirs.slice(0, 3).map((from) => ({ id: `${id}-${from}`, from }));
  return meetStep({ ...base, inputs: made.empty ? [on.id] : [on.id, other.id], by, brought });
}
