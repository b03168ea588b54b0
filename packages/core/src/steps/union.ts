import { z } from 'zod';
import { idShape } from '../ids';
import type { Expression } from '../expressions';
import { all, compare, failureOf, textLiteral } from '../expressions';
import type { Field, FieldId, FieldType } from '../fields';
import { fieldById, text, typeShape, typeWord } from '../fields';
import { listedWords } from '../joins';
import type { Problem } from '../problem';
import { problem, warning } from '../problem';
import type { CalculatedColumn, Column, Relation } from '../sql';
import { columnsOf, valueOf } from '../sql';
import type { Value } from '../values';
import { beginning, readValue, rescale, writeValue } from '../values';
import type { FailureAt, FollowedThrough, ItemChange, ItemList, StepKind, Through } from './kind';
import { ROWS_FOLLOWED } from './kind';
import { commonFor, converted, valueIn } from './common-type';
import { stillKnown } from './passing-through';
import type { Arriving, Checked, Rows, StepBase } from './step';
import { stepBase } from './step';
import type { Questioning } from './wanted-rows';

/** A field of a union: which field of each input it is; null where an input has none, and so nulls or a typed value. */
export interface UnionField {
  readonly id: string;
  readonly name: string;
  /** By slot. */
  readonly from: readonly (FieldId | null)[];
  /** The type all are converted to, where they differ and it was taken on purpose. */
  readonly as: FieldType | null;
  /** By slot, the value written where an input has no such field; nulls where it is left out. */
  readonly fill?: readonly (string | null)[];
}

/** A field that says which input a row came from. */
export interface UnionSource {
  readonly id: string;
  readonly name: string;
  /** What each input is called, by slot. */
  readonly words: readonly string[];
}

/** Inputs beyond these are told by their number, in the sentence and the grain. */
const MOST_NAMED = 4;

/** Rows of several steps on top of one another. All its fields are minted. */
export interface UnionStep extends StepBase {
  readonly kind: 'union';
  /** Rows that are alike in all fields stand once. */
  readonly once: boolean;
  readonly fields: readonly UnionField[];
  readonly source: UnionSource | null;
}

/** Its fields with the type they have in common, as far as they have one. */
export interface CheckedUnion {
  readonly columns: readonly {
    readonly field: UnionField;
    readonly type: FieldType;
    readonly inputs: readonly (Field | undefined)[];
    /** By slot, what stands where an input has no such field. */
    readonly fills: readonly Value[];
  }[];
}

const unionFieldShape: z.ZodType<UnionField> = z.strictObject({
  id: idShape,
  name: z.string().max(200),
  from: z.array(idShape.nullable()).max(50),
  as: typeShape.nullable(),
  fill: z.array(z.string().max(1_000).nullable()).max(50).optional(),
}) as z.ZodType<UnionField>;

const shape: z.ZodType<UnionStep> = z.strictObject({
  ...stepBase,
  kind: z.literal('union'),
  once: z.boolean(),
  fields: z.array(unionFieldShape).max(2_000),
  source: z.strictObject({ id: idShape, name: z.string().max(200), words: z.array(z.string().max(200)).max(50) }).nullable(),
});

const fields: ItemList<UnionField> = {
  shape: unionFieldShape,
  sentence: (change: ItemChange) => {
    const name = (field: unknown) => (field as UnionField).name;
    if (change.did === 'changed') return `lined up ${name(change.to)} anew`;
    return change.did === 'added' ? `stacked one more field, ${name(change.item)}` : `stacked ${name(change.item)} no more`;
  },
};

const carries = (step: UnionStep, slot: number, field: FieldId) => step.fields.find((each) => each.from[slot] === field)?.id;

type Own = Checked<UnionStep, CheckedUnion>;

export const unionKind: StepKind<UnionStep, CheckedUnion> = {
  kind: 'union',
  inputs: { least: 2, most: 50, role: (slot) => (slot === 0 ? 'first rows' : `rows number ${slot + 1}`) },
  shape,
  properties: {
    once: ({ to, title }) => (to === true ? `kept repeated rows of ${title} once` : `kept all rows of ${title}`),
    source: ({ to, title }) =>
      to === null ? `${title} does not say any more where rows came from` : `made ${title} say where rows came from`,
    fields: ({ title }) => `lined up the fields of ${title} anew`,
  },
  lists: { fields },
  mints: (step) => [...step.fields.map((each) => each.id), ...(step.source ? [step.source.id] : [])],
  sources: () => [],
  carries,
  origin: (step, id) => {
    const field = step.fields.find((each) => each.id === id);
    if (field) return { fields: field.from.flatMap((each) => each ?? []), how: 'stacked' };
    return step.source?.id === id ? { fields: [], how: 'says which input a row came from' } : undefined;
  },
  check,
  sentence: (step, arriving) => {
    const rows = arriving.map((each) => each.grain.rows || '…');
    return `${rows.length > MOST_NAMED ? `${rows.length} inputs` : listedWords(rows)} on top of one another${step.once ? ', repeated rows once' : ''}`;
  },
  mentions: () => [],
  unasked: () => undefined,
  relation,
  rows,
  counted: { by: 'a statement of its own', failures },
  followed,
  written: () => [],
  uses: (step) => step.fields.flatMap((each) => each.from.flatMap((id) => (id === null ? [] : [{ kind: 'field' as const, id }]))),
  renamed: (step) => step,
  fieldName: (step, id) => [...step.fields, ...(step.source ? [step.source] : [])].find((each) => each.id === id)?.name,
  withFieldNamed: (step, id, name) => ({
    ...step,
    fields: step.fields.map((each) => (each.id === id ? { ...each, name } : each)),
    source: step.source?.id === id ? { ...step.source, name } : step.source,
  }),
  withIds: (step, idOf) => ({
    ...step,
    id: idOf(step.id),
    inputs: step.inputs.map((each) => each && idOf(each)),
    fields: step.fields.map((each) => ({ ...each, id: idOf(each.id), from: each.from.map((id) => id && idOf(id)) })),
    source: step.source && { ...step.source, id: idOf(step.source.id) },
  }),
  withoutValues: (step) => ({
    ...step,
    name: '',
    fields: step.fields.map(({ fill: _fill, ...each }) => each),
    source: step.source && { ...step.source, words: step.source.words.map(() => '') },
  }),
};

function check(step: UnionStep, arriving: readonly Arriving[]) {
  const problems: Problem[] = [];
  const names = new Set<string>();
  const columns = step.fields.flatMap((field) => {
    const place = { step: step.id, field: field.id };
    const inputs = arriving.map(({ schema }, slot) => {
      const from = field.from[slot] ?? null;
      const found = from === null ? undefined : fieldById(schema, from);
      if (from !== null && !found)
        problems.push(
          problem('field-gone', `What ${field.name} was in input ${slot + 1} does not arrive any more.`, place, 'another field, or null'),
        );
      return found;
    });
    if (field.name.trim() === '') problems.push(problem('name-missing', 'A stacked field has no name.', place, 'a name of its own'));
    else if (names.has(field.name))
      problems.push(problem('name-taken', `There are two fields called ${field.name}.`, place, 'a name of its own'));
    names.add(field.name);
    const types = inputs.flatMap((each) => each?.type ?? []);
    const [first] = types;
    if (!first) {
      if (inputs.length > 1 && field.from.every((each) => each === null))
        problems.push(problem('field-empty', `${field.name} is no field of any input.`, place, 'a field of at least one of them'));
      return [];
    }
    const common = field.as ?? types.reduce<FieldType | undefined>((type, each) => type && commonFor(type, each), first);
    if (!common) {
      const told = [...new Set(types.map(typeWord))];
      problems.push(
        problem(
          'union-types',
          `${field.name} is ${listedWords(told)} in different inputs.`,
          place,
          'all of them as text, on purpose, or other fields',
        ),
      );
      return [];
    }
    const fills = arriving.map((_each, slot) => filled(field, slot, common, place, problems));
    return [{ field, type: common, inputs, fills }];
  });
  if (step.fields.length === 0)
    problems.push(problem('union-empty', 'No field is stacked yet.', { step: step.id }, 'a field, with what it is in each input'));
  if (arriving.length > 1 && columns.length > 0 && columns.every(({ inputs }) => inputs.filter((each) => each).length < 2))
    problems.push(
      warning(
        'union-apart',
        'The inputs have no field in common: each field is null in all but one.',
        { step: step.id },
        'fields lined up by hand',
      ),
    );
  if (step.source && names.has(step.source.name))
    problems.push(
      problem(
        'name-taken',
        `There are two fields called ${step.source.name}.`,
        { step: step.id, field: step.source.id },
        'a name of its own',
      ),
    );
  const made = columns.map(({ field, type, inputs }): Field => {
    const role = inputs.find((each) => each !== undefined)?.role ?? 'attribute';
    const origin = { step: step.id, column: field.name };
    return { id: field.id, name: field.name, type, role, origin, forUseOnly: false, ...addsUpOf(step, inputs) };
  });
  const tag: readonly Field[] = step.source
    ? [
        {
          id: step.source.id,
          name: step.source.name,
          type: text,
          role: 'attribute',
          origin: { step: step.id, column: step.source.name },
          forUseOnly: false,
        },
      ]
    : [];
  const schema = { fields: [...made, ...tag] };
  return { schema, grain: grainOf(step, arriving, schema.fields), problems, checked: { columns } };
}

function filled({ from, fill, name }: UnionField, slot: number, type: FieldType, place: Problem['place'], problems: Problem[]): Value {
  const typed = from[slot] === undefined || from[slot] === null ? (fill?.[slot] ?? null) : null;
  if (typed === null) return null;
  const read = readValue(type, typed);
  if (read.ok) return read.value;
  problems.push(problem('value-wrong-type', `“${beginning(typed, 60)}” is no value for ${name}.`, place, read.expected));
  return null;
}

/** Over what a stacked field adds up: over no more than it did in any input. */
function addsUpOf(step: UnionStep, inputs: readonly (Field | undefined)[]): Pick<Field, 'addsUp' | 'within' | 'oncePer'> {
  const oncePer = inputs.find((each) => each?.oncePer !== undefined)?.oncePer;
  return { ...groupingOf(step, inputs), ...(oncePer === undefined ? {} : { oncePer }) };
}

function groupingOf(step: UnionStep, inputs: readonly (Field | undefined)[]): Pick<Field, 'addsUp' | 'within'> {
  if (inputs.some((each) => each?.addsUp === 'over nothing')) return { addsUp: 'over nothing' };
  const slot = inputs.findIndex((each) => each?.addsUp === 'within one grouping');
  if (slot < 0) return {};
  const within = carries(step, slot, inputs[slot]?.within ?? '');
  return { addsUp: 'within one grouping', ...(within === undefined ? {} : { within }) };
}

function grainOf(step: UnionStep, arriving: readonly Arriving[], made: readonly Field[]) {
  const rows = [...new Set(arriving.map((each) => each.grain.rows))];
  const words = [...new Set(arriving.map((each) => each.grain.row))];
  const named = words.length <= MOST_NAMED;
  const called = { row: named ? words.join(' or ') : 'row of any input', rows: named ? rows.join(' or ') : 'rows of any input' };
  if (step.once) return { ...called, keys: [made.map((each) => each.id)] };
  const { source } = step;
  if (!source || new Set(source.words.slice(0, arriving.length)).size < arriving.length) return { ...called, keys: [] };
  // Rows of one input are told apart by its key, those of different ones by where they came from.
  const keys = arriving.map(({ grain }, slot) =>
    grain.keys.flatMap((key) => {
      const ids = key.flatMap((id) => carries(step, slot, id) ?? []);
      return ids.length === key.length ? [[...ids].sort().join(' ')] : [];
    }),
  );
  const shared = (keys[0] ?? []).filter((key) => keys.every((each) => each.includes(key)));
  return { ...called, keys: shared.map((key) => [source.id, ...key.split(' ')]) };
}

const wordAt = ({ words }: UnionSource, slot: number) => words[slot] ?? '';

function relation({ step, checked, title }: Own, inputs: readonly Relation[]): Relation {
  const columns: readonly Column[] = [
    ...checked.columns.map(({ field, type }) => ({ id: field.id, name: field.name, type })),
    ...(step.source ? [{ id: step.source.id, name: step.source.name, type: text }] : []),
  ];
  const lined = inputs.map((input, slot): Relation => {
    const made = checked.columns.map(({ field, type, inputs: from, fills }): CalculatedColumn => {
      const id = `${field.id} ${slot + 1}`;
      const given = from[slot];
      const expression: Expression = given ? converted(given, type) : { op: 'literal', type, value: fills[slot] ?? null };
      return { id, name: id, type, expression };
    });
    const tag: readonly CalculatedColumn[] = step.source
      ? [{ id: `${step.source.id} ${slot + 1}`, name: step.source.name, type: text, expression: textLiteral(wordAt(step.source, slot)) }]
      : [];
    return { node: 'calculate', input, kept: [], fields: [...made, ...tag] };
  });
  const stacked: Relation = { node: 'union', inputs: lined, columns };
  if (!step.once) return { ...stacked, name: title };
  return { node: 'group', name: title, input: stacked, keys: columns.map((each) => ({ ...each, expression: valueOf(each) })), counts: [] };
}

/** Values of an input that could not be converted. */
function failures({ checked }: Own): readonly FailureAt[] {
  return checked.columns.flatMap(({ field, type, inputs }) =>
    inputs.flatMap((from, slot) => {
      const when = from && failureOf(converted(from, type));
      return when ? [{ slot, field: field.id, when }] : [];
    }),
  );
}

function rows({ step, checked }: Own, inputs: readonly Rows[]): Rows {
  const stacked = inputs.flatMap((input, slot) =>
    input.map(
      (row) =>
        new Map<string, Value>([
          ...checked.columns.map(
            ({ field, type, inputs: from, fills }) =>
              [field.id, from[slot] ? valueIn(row, from[slot], type) : (fills[slot] ?? null)] as const,
          ),
          ...(step.source ? [[step.source.id, wordAt(step.source, slot)] as const] : []),
        ]),
    ),
  );
  if (!step.once) return stacked;
  const types = new Map(checked.columns.map(({ field, type }) => [field.id, type]));
  const keyOf = (row: ReadonlyMap<string, Value>) =>
    JSON.stringify(
      [...row].map(([id, value]) =>
        value === null ? null : typeof value === 'object' ? writeValue(types.get(id) ?? text, rescale(value, 20)) : String(value),
      ),
    );
  return [...new Map(stacked.map((row) => [keyOf(row), row])).values()];
}

function* followed(through: Through<UnionStep, CheckedUnion>): Questioning<FollowedThrough> {
  const { checked, slot, relation: made, arrived } = through;
  const { source } = checked.step;
  const known = stillKnown(through, carries);
  if (!known) return { present: checked.step.once ? Math.min(1, arrived) : arrived, dropped: [], values: [] };
  const from = source && compare('=', valueOf({ id: source.id, type: text }), textLiteral(wordAt(source, slot)));
  const now = from ? all(known, from) : known;
  const columns = columnsOf(made).slice(0, 1);
  const found = yield { relation: { node: 'filter', input: made, condition: now }, columns, limit: ROWS_FOLLOWED };
  return { present: found.length, dropped: [], values: [], known: now };
}
