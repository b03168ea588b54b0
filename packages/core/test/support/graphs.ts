import fc from 'fast-check';
import type {
  ComparedPair,
  Definition,
  ExpressionText,
  Field,
  JoinPair,
  Kept,
  MatchSwitch,
  Relation,
  Step,
  SummariseStep,
  SummaryAggregate,
  TableField,
  TableRows,
  TableStep,
  Value,
} from '../../src';
import {
  checkedStep,
  checkTrail,
  comparedPair,
  emptyDefinition,
  fieldById,
  isKept,
  isNumber,
  joinStep,
  NOTHING_ARRIVES,
  ofWhole,
  renameReference,
  sameType,
  SUMMARY_AGGREGATES,
  SWITCHES,
  text,
  whole,
  unionStep,
  withTexts,
  writtenName,
} from '../../src';
import { meetStep } from './made-up-kind';
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
  | {
      readonly kind: 'union';
      readonly on: number;
      readonly others: readonly number[];
      readonly once: boolean;
      readonly source: boolean;
      readonly off: boolean;
    }
  | {
      readonly kind: 'summarise';
      readonly on: number;
      readonly keys: readonly number[];
      readonly values: readonly { readonly aggregate: SummaryAggregate; readonly of: number; readonly among: boolean }[];
      /** Groups also without rows: for every value of another step. */
      readonly every: { readonly with: number; readonly zero: boolean } | null;
      readonly off: boolean;
    }
  | { readonly kind: 'criteria'; readonly on: number; readonly least: number; readonly off: boolean }
  | { readonly kind: 'calculate'; readonly on: number; readonly plus: number; readonly off: boolean }
  | {
      readonly kind: 'join';
      readonly on: number;
      readonly with: number;
      readonly off: boolean;
      readonly keeps: Kept;
      readonly pairs: readonly MadePair[];
      readonly one: boolean;
    }
  | {
      readonly kind: 'lookup';
      readonly on: number;
      readonly partners: readonly { readonly with: number; readonly pair: MadePair; readonly one: boolean }[];
      readonly off: boolean;
    }
  | { readonly kind: 'meet'; readonly on: number; readonly with: number; readonly off: boolean; readonly empty: boolean };

interface MadePair {
  readonly how: 'numbers' | 'texts' | 'between' | 'written';
  readonly comparison: ComparedPair['comparison'];
  readonly overlooks: readonly MatchSwitch[];
  readonly nullsMeet: boolean;
  readonly left: number;
  readonly right: number;
}

const pair: fc.Arbitrary<MadePair> = fc.record({
  how: fc.constantFrom('numbers', 'numbers', 'texts', 'texts', 'between', 'written'),
  comparison: fc.constantFrom('=', '=', '=', '<', '<=', '>', '>='),
  overlooks: fc.subarray([...SWITCHES]),
  nullsMeet: fc.boolean(),
  left: fc.nat(20),
  right: fc.nat(20),
});

const made: fc.Arbitrary<Made> = fc.oneof(
  madeTurned,
  fc.record({ kind: fc.constant('criteria' as const), on: fc.nat(20), least: fc.integer({ min: 0, max: 4 }), off: rarely(4) }),
  fc.record({ kind: fc.constant('calculate' as const), on: fc.nat(20), plus: fc.integer({ min: 0, max: 3 }), off: rarely(4) }),
  fc.record({
    kind: fc.constant('join' as const),
    on: fc.nat(20),
    with: fc.nat(20),
    off: rarely(8),
    keeps: fc
      .record({ met: fc.boolean(), left: fc.boolean(), right: fc.boolean() })
      .map((keeps) => (keeps.met || keeps.left || keeps.right ? keeps : { ...keeps, met: true })),
    pairs: fc.array(pair, { minLength: 1, maxLength: 2 }),
    one: rarely(4),
  }),
  fc.record({
    kind: fc.constant('lookup' as const),
    on: fc.nat(20),
    partners: fc.array(fc.record({ with: fc.nat(20), pair, one: fc.boolean() }), { minLength: 1, maxLength: 2 }),
    off: rarely(8),
  }),
  fc.record({
    kind: fc.constant('summarise' as const),
    on: fc.nat(20),
    keys: fc.uniqueArray(fc.nat(20), { maxLength: 2 }),
    values: fc.array(fc.record({ aggregate: fc.constantFrom(...SUMMARY_AGGREGATES), of: fc.nat(20), among: rarely(3) }), { maxLength: 4 }),
    every: fc.option(fc.record({ with: fc.nat(20), zero: fc.boolean() }), { freq: 2 }),
    off: rarely(8),
  }),
  fc.record({
    kind: fc.constant('union' as const),
    on: fc.nat(20),
    others: fc.array(fc.nat(20), { minLength: 1, maxLength: 2 }),
    once: fc.boolean(),
    source: fc.boolean(),
    off: rarely(8),
  }),
  fc.record({ kind: fc.constant('meet' as const), on: fc.nat(20), with: fc.nat(20), off: rarely(6), empty: rarely(8) }),
);

function rarely(oneIn: number): fc.Arbitrary<boolean> {
  return fc.nat(oneIn - 1).map((each) => each === 0);
}

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

/** The fields of whole numbers a step gives, by the ids a step can ask with. */
function numbersOf(step: Step, all: readonly Step[]): readonly string[] {
  if (step.kind === 'table') return step.fields.flatMap((each) => (each.type.kind === 'whole' ? [each.id] : []));
  const [first] = step.inputs;
  const arriving = all.find((each) => each.id === first);
  const passed = arriving ? numbersOf(arriving, all) : [];
  if (step.kind === 'calculate') return [...passed, ...step.fields.map((each) => each.id)];
  if (step.kind === 'criteria') return passed;
  if (step.kind === 'arrange') return passed.filter((each) => isKept(step, each));
  if (step.kind === 'unpivot') {
    const away = new Set(step.lines.flatMap(({ from }) => from));
    return [...passed.filter((each) => !away.has(each)), ...step.values.map((each) => each.id)];
  }
  if (step.kind === 'union') {
    const theirs = step.inputs.map((input) => numbersOf(all.find((each) => each.id === input) as Step, all));
    return step.fields.flatMap(({ id, from }) => (from.some((each, slot) => each !== null && theirs[slot]?.includes(each)) ? [id] : []));
  }
  if (step.kind === 'summarise') {
    const numbers = step.keys.filter((each) => each.expression.refs.some((ref) => passed.includes(ref.id)));
    return [...numbers, ...step.values.filter(({ aggregate }) => aggregate !== 'share' && aggregate !== 'joined')].map((each) => each.id);
  }
  if (step.kind === 'lookup')
    return step.partners.reduce<readonly string[]>((ids, each, at) => {
      const partner = all.find(({ id }) => id === step.inputs[at + 1]);
      const theirs = partner ? numbersOf(partner, all) : [];
      return [...ids, ...each.fields.flatMap(({ id, from }) => (theirs.includes(from) ? [id] : []))];
    }, passed);
  if (step.kind === 'join') {
    const partner = all.find((each) => each.id === step.inputs[1]);
    const theirs = partner ? numbersOf(partner, all) : [];
    return [...passed, ...step.fields.flatMap(({ id, from }) => (theirs.includes(from) ? [id] : []))];
  }
  return [...passed, ...(step as unknown as { brought: readonly { id: string }[] }).brought.map((each) => each.id)];
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
  if (made.kind === 'unpivot' || made.kind === 'arrange') {
    const trail = checkTrail({ ...emptyDefinition(''), steps: all, result: on.id });
    return turnedStep(made, on, (checkedStep(trail, on.id) ?? NOTHING_ARRIVES).schema, id);
  }
  if (made.kind === 'union') return stackOf(made, on, all, id);
  if (made.kind === 'summarise') return summaryOf(made, on, all, id);
  if (made.kind === 'join') return joinOf(made, on, all, id);
  if (made.kind === 'lookup') return lookupOf(made, on, all, id);
  const other = all[made.with % all.length] as Step;
  const theirs = wholeOf(numbersOf(other, all));
  const own = wholeOf(numbers);
  const by: readonly [string, string] = [own[made.on % own.length] ?? 'none', theirs[made.with % theirs.length] ?? 'none'];
  const brought = theirs.slice(0, 3).map((from) => ({ id: `${id}-${from}`, from }));
  return meetStep({ ...base, inputs: made.empty ? [on.id] : [on.id, other.id], by, brought });
}

/** A join of two steps, all fields of the second taken, which meet by generated pairs. */
function joinOf(made: Made & { kind: 'join' }, on: Step, all: readonly Step[], id: string): Step {
  const other = all[made.with % all.length] as Step;
  const trail = checkTrail({ ...emptyDefinition(''), steps: all, result: on.id });
  const arriving = (step: Step) => checkedStep(trail, step.id) ?? NOTHING_ARRIVES;
  let count = 0;
  const step = joinStep(() => `${id}-j${count++}`, [on.id, other.id], [arriving(on), arriving(other)], 'other');
  const own = arriving(on).schema.fields;
  const theirs = step.fields.flatMap(({ id: of, from, name }) => {
    const field = arriving(other).schema.fields.find((each) => each.id === from);
    return field ? [{ ...field, id: of, name }] : [];
  });
  const taken = theirs.map((each) => each.id);
  const one = made.one ? taken.slice(0, 20).map((field) => ({ field, descending: field.length % 2 === 0 })) : null;
  const pairs = made.pairs.map((each, at) => pairOf(each, `${id}-p${at}`, own, theirs));
  return { ...step, id, off: made.off, keeps: made.keeps, pairs, taken, one };
}

/** Fields of other steps looked up, each partner by one generated pair; where several may be found the first by all its fields. */
function lookupOf(made: Made & { kind: 'lookup' }, on: Step, all: readonly Step[], id: string): Step {
  const joins = made.partners.map((each, at) =>
    joinOf(
      { ...made, kind: 'join', with: each.with, keeps: { met: true, left: true, right: false }, pairs: [each.pair], one: each.one },
      on,
      all,
      `${id}-l${at}`,
    ),
  );
  const partners = joins.flatMap((each) => {
    if (each.kind !== 'join') return [];
    const { id: of, pairs, role, taken, one } = each;
    const fields = each.fields.map((field) => ({ ...field, name: `${of}_${field.name}` }));
    const names = new Map(each.fields.map((field) => [field.id, `${of}_${field.name}`]));
    const renamed = pairs.map((pair) =>
      [...names].reduce((done, [field, name]) => withTexts(done, (text) => renameReference(text, 'field', field, name)), pair),
    );
    return [{ id: of, pairs: renamed, role, fields, taken, one }];
  });
  return { id, kind: 'lookup', name: '', off: made.off, inputs: [on.id, ...joins.flatMap((each) => each.inputs[1] ?? [])], partners };
}

/** Steps on top of one another, lined up by their names. */
function stackOf(made: Made & { kind: 'union' }, on: Step, all: readonly Step[], id: string): Step {
  const others = made.others.map((each) => all[each % all.length] as Step);
  const trail = checkTrail({ ...emptyDefinition(''), steps: all, result: on.id });
  const arriving = [on, ...others].map((each) => checkedStep(trail, each.id) ?? NOTHING_ARRIVES);
  let count = 0;
  const step = unionStep(
    () => `${id}-f${count++}`,
    [on, ...others].map((each) => each.id),
    arriving,
  );
  const source = made.source ? { id: `${id}-tag`, name: `came_from_${id}`, words: arriving.map((_each, at) => `input ${at}`) } : null;
  return { ...step, id, off: made.off, once: made.once, source };
}

/** Rows summed up by generated fields; firsts and lasts are told by their own order, so that ties are equal values. */
function summaryOf(made: Made & { kind: 'summarise' }, on: Step, all: readonly Step[], id: string): Step {
  const trail = checkTrail({ ...emptyDefinition(''), steps: all, result: on.id });
  const fields = (checkedStep(trail, on.id) ?? NOTHING_ARRIVES).schema.fields;
  const any = (at: number) => fields[at % fields.length];
  const numbers = fields.filter((each) => isNumber(each.type));
  const number = (at: number) => numbers[at % numbers.length];
  const nothing: ExpressionText = { text: '', refs: [] };
  const keys = made.keys.flatMap((at, index) => {
    const field = any(at);
    return field ? [{ id: `${id}-k${index}`, name: `key_${id}_${index}`, expression: written(field) }] : [];
  });
  const values = made.values.flatMap(({ aggregate, of, among }, index) => {
    const field = number(of);
    if (!field) return [];
    const own = written(field);
    const least: ExpressionText = { text: `${own.text} > 1`, refs: own.refs };
    const base = { id: `${id}-f${index}`, name: `f_${id}_${index}`, aggregate, among: among ? least : nothing };
    if (aggregate === 'joined') return { ...base, expression: own, order: nothing, separator: index % 2 === 0 ? ' / ' : '' };
    if (aggregate === 'share') return [{ ...base, expression: least, order: nothing }];
    return [{ ...base, expression: own, order: aggregate === 'first' || aggregate === 'last' ? own : nothing }];
  });
  const summary: SummariseStep = { id, kind: 'summarise', name: '', off: made.off, inputs: [on.id], keys, values };
  const [first] = keys;
  const type = first && fieldById({ fields }, first.expression.refs[0]?.id ?? '')?.type;
  const other = made.every && (all[made.every.with % all.length] as Step);
  const given = other && (checkedStep(trail, other.id) ?? NOTHING_ARRIVES).schema.fields.find((each) => type && sameType(each.type, type));
  if (!made.every || !other || !first || !given) return summary;
  const part = { from: 'step' as const, key: first.id, slot: 1, field: given.id };
  return { ...summary, inputs: [on.id, other.id], every: { parts: [part], filledWith: made.every.zero ? '0' : 'null' } };
}

const written = ({ id, name }: Field): ExpressionText => {
  const typed = writtenName('field', name);
  return { text: typed, refs: [{ kind: 'field', id, from: 0, to: typed.length }] };
};

function pairOf(made: MadePair, id: string, own: readonly Field[], theirs: readonly Field[]): JoinPair {
  const kind = made.how === 'texts' ? 'text' : 'whole';
  const pick = (fields: readonly Field[], at: number) => {
    const some = fields.filter((each) => each.type.kind === kind);
    const field = some[at % some.length];
    // A side without a field of the kind leaves the pair unfinished.
    return field ? written(field) : { text: '', refs: [] };
  };
  const [left, right, until] = [pick(own, made.left), pick(theirs, made.right), pick(theirs, made.right + 1)];
  const { nullsMeet } = made;
  if (made.how === 'between') return comparedPair({ id, left, comparison: 'between', right, until, nullsMeet });
  if (made.how !== 'written') {
    const { comparison } = made;
    return comparedPair({ id, left, comparison, right, nullsMeet, overlooks: comparison === '=' && kind === 'text' ? made.overlooks : [] });
  }
  const joined = `${left.text} + ${right.text} > 3`;
  const behind = left.text.length + 3;
  const refs = [...left.refs, ...right.refs.map((each) => ({ ...each, from: each.from + behind, to: each.to + behind }))];
  return { id, kind: 'written', expression: { text: joined, refs } };
}
