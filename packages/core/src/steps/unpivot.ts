import { z } from 'zod';
import { idShape } from '../ids';
import type { Expression } from '../expressions';
import { compare, disjunction, either, failureOf, isNull, not, textLiteral, wholeLiteral, yes } from '../expressions';
import type { Field, FieldId, FieldType } from '../fields';
import { fieldById, freeName, isNumber, text, typeShape, typeWord, whole } from '../fields';
import { listedWords } from '../joins';
import type { Problem } from '../problem';
import { problem } from '../problem';
import type { CalculatedColumn, Relation } from '../sql';
import { columnsOf, valueOf } from '../sql';
import type { Value } from '../values';
import { commonFor, converted, valueIn } from './common-type';
import type { FailureAt, FollowedThrough, ItemChange, ItemList, StepKind, Through } from './kind';
import { ROWS_FOLLOWED } from './kind';
import { stillKnown } from './passing-through';
import type { Arriving, Checked, Rows, StepBase } from './step';
import { NOTHING_ARRIVES, ONE_INPUT, stepBase } from './step';
import type { Questioning } from './wanted-rows';

/** One of the rows that are made of each row: what it is called, and the field of each of the value fields there. */
export interface UnpivotLine {
  readonly id: string;
  readonly word: string;
  /** By value field; null where the line has none. */
  readonly from: readonly (FieldId | null)[];
}

/** A field that holds values of several fields, one a row. */
export interface UnpivotValue {
  readonly id: string;
  readonly name: string;
  /** The type all are converted to, where they differ and it was taken on purpose. */
  readonly as: FieldType | null;
}

/** Fields become rows: each row stands once per line, with what it is and its values there. The other fields pass through. */
export interface UnpivotStep extends StepBase {
  readonly kind: 'unpivot';
  /** The field that says what a row's values are. */
  readonly label: { readonly id: string; readonly name: string };
  readonly values: readonly UnpivotValue[];
  readonly lines: readonly UnpivotLine[];
  /** Whether rows without any value are kept. */
  readonly nulls: boolean;
}

/** A value field with the type its fields have in common, and the field of each line. */
interface CheckedValueField {
  readonly value: UnpivotValue;
  readonly type: FieldType;
  readonly fields: readonly (Field | undefined)[];
}

export interface CheckedUnpivot {
  readonly values: readonly CheckedValueField[];
  /** Fields that pass through. */
  readonly kept: readonly Field[];
}

const lineShape: z.ZodType<UnpivotLine> = z.strictObject({
  id: idShape,
  word: z.string().max(200),
  from: z.array(idShape.nullable()).max(20),
});
const valueShape: z.ZodType<UnpivotValue> = z.strictObject({ id: idShape, name: z.string().max(200), as: typeShape.nullable() });

const shape: z.ZodType<UnpivotStep> = z.strictObject({
  ...stepBase,
  kind: z.literal('unpivot'),
  label: z.strictObject({ id: idShape, name: z.string().max(200) }),
  values: z.array(valueShape).max(20),
  lines: z.array(lineShape).max(400),
  nulls: z.boolean(),
});

const lines: ItemList<UnpivotLine> = {
  shape: lineShape,
  sentence: (change: ItemChange) => {
    const word = (line: unknown) => (line as UnpivotLine).word || '…';
    if (change.did === 'changed') return `changed the row ${word(change.to)}`;
    return change.did === 'added' ? `made ${word(change.item)} a row` : `made ${word(change.item)} no row any more`;
  },
};

const values: ItemList<UnpivotValue> = {
  shape: valueShape,
  sentence: (change: ItemChange) => {
    const name = (value: unknown) => (value as UnpivotValue).name || '…';
    if (change.did === 'changed') return `changed the values in ${name(change.to)}`;
    return change.did === 'added' ? `turned values into ${name(change.item)} too` : `turned no values into ${name(change.item)} any more`;
  },
};

const turned = (step: UnpivotStep): ReadonlySet<FieldId> =>
  new Set(step.lines.flatMap((line) => step.values.flatMap((_value, at) => line.from[at] ?? [])));

/** Fields that become rows leave as the values there, several under one id; the others pass through. */
const carries = (step: UnpivotStep, slot: number, field: FieldId): FieldId | undefined =>
  slot === 0 && !turned(step).has(field) ? field : undefined;

type Own = Checked<UnpivotStep, CheckedUnpivot>;

export const unpivotKind: StepKind<UnpivotStep, CheckedUnpivot> = {
  kind: 'unpivot',
  inputs: ONE_INPUT,
  shape,
  properties: {
    nulls: ({ to, title }) => (to === true ? `kept rows of ${title} without a value` : `left out rows of ${title} without a value`),
    lines: ({ title }) => `changed which rows ${title} makes`,
  },
  lists: { lines, values },
  mints: (step) => [step.label.id, ...step.values.map((each) => each.id)],
  sources: () => [],
  carries,
  origin: (step, id) => {
    if (step.label.id === id) return { fields: [], how: 'says which field a row came from' };
    const at = step.values.findIndex((each) => each.id === id);
    return at < 0 ? undefined : { fields: step.lines.flatMap((line) => line.from[at] ?? []), how: 'turned into rows' };
  },
  check,
  sentence: (step) => {
    const words = step.lines.map((each) => each.word || '…');
    if (words.length === 0) return 'turns nothing into rows yet';
    return `${words.length > 4 ? `${words.length} fields` : listedWords(words)} become rows`;
  },
  mentions: () => [],
  unasked: () => undefined,
  order: () => 'as it comes',
  relation,
  rows,
  counted: { by: 'a statement of its own', failures },
  followed,
  written: () => [],
  uses: (step) => [...turned(step)].map((id) => ({ kind: 'field', id })),
  renamed: (step) => step,
  fieldName: (step, id) => [step.label, ...step.values].find((each) => each.id === id)?.name,
  withFieldNamed: (step, id, name) => ({
    ...step,
    label: step.label.id === id ? { ...step.label, name } : step.label,
    values: step.values.map((each) => (each.id === id ? { ...each, name } : each)),
  }),
  withIds: (step, idOf) => ({
    ...step,
    id: idOf(step.id),
    inputs: step.inputs.map((each) => each && idOf(each)),
    label: { ...step.label, id: idOf(step.label.id) },
    values: step.values.map((each) => ({ ...each, id: idOf(each.id) })),
    lines: step.lines.map((each) => ({ ...each, id: idOf(each.id), from: each.from.map((id) => id && idOf(id)) })),
  }),
  withoutValues: (step) => ({ ...step, name: '', lines: step.lines.map((each) => ({ ...each, word: '' })) }),
};

function check(step: UnpivotStep, [arriving = NOTHING_ARRIVES]: readonly Arriving[]) {
  const { schema, grain } = arriving;
  const problems: Problem[] = [];
  const away = turned(step);
  const kept = schema.fields.filter((each) => !away.has(each.id));
  const names = new Set(kept.map((each) => each.name));
  for (const { id, name } of [step.label, ...step.values]) {
    const place = { step: step.id, field: id };
    if (name.trim() === '') problems.push(problem('name-missing', 'This has no name yet.', place, 'a name, such as grouping'));
    else if (names.has(name)) problems.push(problem('name-taken', `There are two fields called ${name}.`, place, 'a name of its own'));
    names.add(name);
  }
  if (step.lines.length === 0)
    problems.push(problem('unpivot-empty', 'No field becomes a row yet.', { step: step.id }, 'fields whose values stand in rows'));
  if (step.values.length === 0)
    problems.push(problem('unpivot-empty', 'Nothing says where the values stand.', { step: step.id }, 'a field for the values'));
  const words = new Set<string>();
  for (const line of step.lines) {
    const place = { step: step.id, field: line.id };
    if (line.word.trim() === '') problems.push(problem('word-missing', 'This row has no word yet.', place, 'what its values are'));
    else if (words.has(line.word)) problems.push(problem('word-twice', `Two rows are called ${line.word}.`, place, 'a word of its own'));
    words.add(line.word);
    line.from.slice(0, step.values.length).forEach((id) => {
      if (id !== null && !fieldById(schema, id))
        problems.push(problem('field-gone', `A field of ${line.word || 'this row'} does not arrive any more.`, place, 'another field'));
    });
  }
  const checked = step.values.flatMap((value, at): readonly CheckedValueField[] => {
    const fields = step.lines.map((line) => {
      const id = line.from[at] ?? null;
      return id === null ? undefined : fieldById(schema, id);
    });
    const types = fields.flatMap((each) => each?.type ?? []);
    const [first] = types;
    if (!first) {
      if (step.lines.length > 0)
        problems.push(
          problem(
            'field-empty',
            `No field gives values to ${value.name || 'this'}.`,
            { step: step.id, field: value.id },
            'a field in a row',
          ),
        );
      return [];
    }
    const type = value.as ?? types.reduce<FieldType | undefined>((common, each) => common && commonFor(common, each), first);
    if (type) return [{ value, type, fields }];
    problems.push(
      problem(
        'unpivot-types',
        `${value.name || 'This'} is ${listedWords([...new Set(types.map(typeWord))])} in different rows.`,
        { step: step.id, field: value.id },
        'all of them as text, on purpose, or other fields',
      ),
    );
    return [];
  });
  const made = [labelField(step), ...checked.map((each) => valueField(step, each))];
  // Behind several rows of each, a measure adds up among those of one grouping only.
  const several = step.lines.length > 1;
  const fields = kept.map((field) => (several && adds(field) ? { ...field, ...withinGrouping(step) } : field));
  return {
    schema: { fields: [...fields, ...made] },
    grain: {
      row: `${grain.row} and ${step.label.name || 'line'}`,
      rows: `${grain.rows} by ${step.label.name || 'line'}`,
      keys: grain.keys.filter((key) => key.every((id) => !away.has(id))).map((key) => [...key, step.label.id]),
    },
    problems,
    checked: { values: checked, kept },
  };
}

const adds = (field: Field) => isNumber(field.type) && field.role === 'measure' && field.addsUp === undefined;
const withinGrouping = (step: UnpivotStep) => ({ addsUp: 'within one grouping', within: step.label.id }) as const;

const labelField = ({ id, label, lines }: UnpivotStep): Field => ({
  id: label.id,
  name: label.name,
  type: text,
  role: 'attribute',
  origin: { step: id, column: label.name },
  forUseOnly: false,
  ...(lines.length > 1 ? { saysGrouping: true } : {}),
});

function valueField(step: UnpivotStep, { value, type, fields }: CheckedValueField): Field {
  const given = fields.flatMap((each) => each ?? []);
  const measures = isNumber(type) && given.every((each) => each.role === 'measure');
  const role = measures ? 'measure' : (given.find((each) => each.role !== 'measure')?.role ?? 'attribute');
  const base = { id: value.id, name: value.name, type, role, origin: { step: step.id, column: value.name }, forUseOnly: false } as const;
  const oncePer = given.find((each) => each.oncePer !== undefined)?.oncePer;
  const own = isNumber(type) && oncePer !== undefined ? { ...base, oncePer } : base;
  if (!measures) return own;
  if (given.some((each) => each.addsUp === 'over nothing')) return { ...own, addsUp: 'over nothing' };
  return step.lines.length > 1 ? { ...own, ...withinGrouping(step) } : own;
}

const lineNumber = ({ id }: Pick<UnpivotStep, 'id'>) => ({ id: `${id} line`, name: `${id} line`, type: whole });

/** What a line gives to each row of it. */
function byLine(step: UnpivotStep, type: FieldType, of: (line: UnpivotLine, at: number) => Expression): Expression {
  const number = valueOf(lineNumber(step));
  const branches = step.lines.map((line, at) => ({ when: compare('=', number, wholeLiteral(at + 1)), then: of(line, at) }));
  return { op: 'case', type, branches, otherwise: { op: 'literal', type, value: null } };
}

function relation({ step, checked, title }: Own, [input]: readonly Relation[]): Relation {
  if (!input) throw new RangeError('one input is turned into rows');
  const numbers: Relation = { node: 'numbers', count: step.lines.length, column: lineNumber(step) };
  const paired: Relation = { node: 'join', left: input, right: numbers, on: yes, keeps: 'pairs' };
  const made = ({ value, type, fields }: CheckedValueField): CalculatedColumn => ({
    id: value.id,
    name: value.name,
    type,
    expression: byLine(step, type, (_line, at) => converted(fields[at], type)),
  });
  const label: CalculatedColumn = {
    ...step.label,
    type: text,
    expression: byLine(step, text, (line) => textLiteral(line.word)),
  };
  const arrived = new Set(columnsOf(input).map((each) => each.id));
  const kept = checked.kept.flatMap(({ id }) => (arrived.has(id) ? [id] : []));
  const turnedRows: Relation = { node: 'calculate', input: paired, kept, fields: [label, ...checked.values.map(made)] };
  if (step.nulls) return { ...turnedRows, name: title };
  return { node: 'filter', name: title, input: turnedRows, condition: someValue(checked) };
}

/** Rows of which a value could not be converted. */
function failures({ checked }: Own): readonly FailureAt[] {
  return checked.values.flatMap(({ value, type, fields }) => {
    const own = fields.flatMap((each) => (each && failureOf(converted(each, type))) ?? []);
    return own.length > 0 ? [{ slot: 0, field: value.id, when: either(...own) }] : [];
  });
}

/** Whether a row has any value. */
function someValue({ values: turnedInto }: CheckedUnpivot): Expression {
  return disjunction(turnedInto.map(({ value, type }) => not(isNull(valueOf({ id: value.id, type })))));
}

function rows({ step, checked }: Own, [given = []]: readonly Rows[]): Rows {
  return given.flatMap((row) =>
    step.lines.flatMap((line, at) => {
      const told = checked.values.map(({ value, type, fields }) => [value.id, valueIn(row, fields[at], type)] as const);
      if (!step.nulls && told.every(([, value]) => value === null)) return [];
      const kept = checked.kept.map(({ id }) => [id, row.get(id) ?? null] as const);
      return [new Map<FieldId, Value>([...kept, [step.label.id, line.word], ...told])];
    }),
  );
}

/** Followed rows become as many as there are lines that give them. */
function* followed(through: Through<UnpivotStep, CheckedUnpivot>): Questioning<FollowedThrough> {
  const { checked, relation: made, arrived } = through;
  const { step } = checked;
  const known = stillKnown(through, carries);
  if (!known) return { present: step.nulls ? arrived * step.lines.length : arrived, dropped: [], values: [] };
  const shown = [step.label, ...step.values].flatMap(({ id }) => columnsOf(made).filter((each) => each.id === id));
  const found = yield { relation: { node: 'filter', input: made, condition: known }, columns: shown, limit: ROWS_FOLLOWED };
  const named = found.map((row) => shown.map(({ name }, at) => ({ name, value: row[at] ?? null })));
  const gone = found.length === 0 && arrived > 0;
  return { present: found.length, dropped: gone ? [{ because: 'no value', clauses: [], values: [] }] : [], values: named, known };
}

/** Nothing turned yet; the two fields it makes have names. */
export function unpivotStep(mint: () => string, input: string, { schema }: Arriving): UnpivotStep {
  const names = new Set(schema.fields.map((each) => each.name));
  const named = (name: string) => {
    const free = freeName(name, names);
    names.add(free);
    return { id: mint(), name: free };
  };
  return {
    id: mint(),
    kind: 'unpivot',
    name: '',
    off: false,
    inputs: [input],
    label: named('grouping'),
    values: [{ ...named('value'), as: null }],
    lines: [],
    nulls: true,
  };
}

/** A line for a field: called what the field is, its value in the first value field. */
export const unpivotLine = (mint: () => string, step: UnpivotStep, { id, name }: Field): UnpivotLine => ({
  id: mint(),
  word: name.replaceAll('_', ' '),
  from: step.values.map((_value, at) => (at === 0 ? id : null)),
});
