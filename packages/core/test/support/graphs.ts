import fc from 'fast-check';
import type { Definition, Step, TableField, TableStep, Value } from '../../src';
import { emptyDefinition, ofWhole, text, whole } from '../../src';
import { meetStep } from './made-up-kind';

/** Generated graphs of steps over up to three sources: chains, trees, diamonds, empty slots, steps that are off, several lanes. */

export interface Graph {
  readonly definition: Definition;
  /** Rows of each table by its name, one value per column. */
  readonly rows: Readonly<Record<string, readonly ReadonlyMap<string, Value>[]>>;
}

const SOURCES = ['s1', 's2', 's3'];

type Made =
  | { readonly kind: 'criteria'; readonly on: number; readonly least: number; readonly off: boolean }
  | { readonly kind: 'calculate'; readonly on: number; readonly plus: number; readonly off: boolean }
  | { readonly kind: 'meet'; readonly on: number; readonly with: number; readonly off: boolean; readonly empty: boolean };

const made: fc.Arbitrary<Made> = fc.oneof(
  fc.record({ kind: fc.constant('criteria' as const), on: fc.nat(20), least: fc.integer({ min: 0, max: 4 }), off: rarely(4) }),
  fc.record({ kind: fc.constant('calculate' as const), on: fc.nat(20), plus: fc.integer({ min: 0, max: 3 }), off: rarely(4) }),
  fc.record({ kind: fc.constant('meet' as const), on: fc.nat(20), with: fc.nat(20), off: rarely(6), empty: rarely(8) }),
);

function rarely(oneIn: number): fc.Arbitrary<boolean> {
  return fc.nat(oneIn - 1).map((each) => each === 0);
}

const row = fc.record({ n: fc.option(fc.integer({ min: 0, max: 5 }), { freq: 6 }), w: fc.constantFrom('a', 'b', 'c') });

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
    const definition: Definition = { ...emptyDefinition('Generated'), steps: all, result: all[result % all.length]?.id ?? null };
    return { definition, rows: Object.fromEntries(tables.map((_source, at) => [`t${at}`, valuesOf(rows[at] ?? [])])) };
  });

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

/** The fields of whole numbers a step gives, by the ids a step can ask with. */
function numbersOf(step: Step, all: readonly Step[]): readonly string[] {
  if (step.kind === 'table') return step.fields.flatMap((each) => (each.type.kind === 'whole' ? [each.id] : []));
  const [first] = step.inputs;
  const arriving = all.find((each) => each.id === first);
  const passed = arriving ? numbersOf(arriving, all) : [];
  if (step.kind === 'calculate') return [...passed, ...step.fields.map((each) => each.id)];
  if (step.kind === 'criteria') return passed;
  return [...passed, ...(step as unknown as { brought: readonly { id: string }[] }).brought.map((each) => each.id)];
}

/** Sums are decimals, and meet no whole numbers. */
const wholeOf = (ids: readonly string[]) => ids.filter((each) => !each.endsWith('-f'));

function stepOf(made: Made, all: readonly Step[], id: string): Step {
  const on = all[made.on % all.length] as Step;
  const numbers = numbersOf(on, all);
  const field = numbers[made.on % numbers.length] ?? '';
  const base = { id, name: '', off: made.off };
  if (made.kind === 'criteria') {
    const operands = [{ kind: 'value' as const, text: String(made.least) }];
    const clause = { id: `${id}-c`, kind: 'condition' as const, off: false, field, operator: 'at least', operands, andNulls: false };
    return { ...base, kind: 'criteria', inputs: [on.id], head: 'every one', clauses: [clause] } as unknown as Step;
  }
  if (made.kind === 'calculate') {
    const name = all.flatMap((each) => (each.kind === 'calculate' ? each.fields : [])).find((each) => each.id === field)?.name ?? 'x';
    const expression = { text: `${name} + ${made.plus}`, refs: [{ kind: 'field' as const, id: field, from: 0, to: name.length }] };
    return { ...base, kind: 'calculate', inputs: [on.id], fields: [{ id: `${id}-f`, name: `f_${id}`, expression }] };
  }
  const other = all[made.with % all.length] as Step;
  const theirs = wholeOf(numbersOf(other, all));
  const own = wholeOf(numbers);
  const by: readonly [string, string] = [own[made.on % own.length] ?? '', theirs[made.with % theirs.length] ?? ''];
  const brought = theirs.slice(0, 3).map((from) => ({ id: `${id}-${from}`, from }));
  return meetStep({ ...base, inputs: made.empty ? [on.id] : [on.id, other.id], by, brought });
}
