import type { Expression } from '../expressions';
import { all, call, cast, compare, editDistance, either, isNull, not, smallSum, textLiteral, when, wholeLiteral } from '../expressions';
import type { Field } from '../fields';
import { text, whole } from '../fields';
import type { Choice } from '../parameters';
import { refuse } from '../problem';
import type { Column, Relation } from '../sql';
import { calculatedColumn as column, columnsOf, valueOf as fieldOf } from '../sql';
import type { Questioning, WantedRows, WireRow } from '../steps';
import type { Value } from '../values';
import { beginning, lowerCase, readValue, valueOfWire } from '../values';
import { familyOf, typedAs } from '../criteria';
import { wireForm } from './in-wire-form';

/** A value that occurs, in wire form, with its label where it has one of its own, and in how many rows. */
export interface FoundValue {
  readonly value: string;
  readonly label: string;
  readonly rows: string;
}

export interface FoundValues {
  readonly values: readonly FoundValue[];
  /** There are more than these. */
  readonly more: boolean;
}

/** Where values come from: rows, the field of the values, and the field of their labels. */
export interface ValueOrigin {
  readonly relation: Relation;
  readonly value: Field;
  readonly label?: Field;
}

export const VALUES_SHOWN = 50;

type Sorted = 'by label' | 'by value' | 'most rows first';

/** The values of a field with their row counts; `search` is part of the value or its label, whatever its case. */
export function* listValues(origin: ValueOrigin, search: string, sorted: Sorted): Questioning<FoundValues> {
  const distinct = distinctValues(origin, search);
  const by = (id: string, descending: boolean) => ({ of: fieldIn(distinct, id), descending, nullsFirst: false });
  const value = by(VALUE, false);
  const order =
    sorted === 'by value' || (sorted === 'by label' && !origin.label)
      ? [value]
      : sorted === 'by label' && origin.label
        ? [by(LABEL, false), value]
        : [by(ROWS, true), value];
  const relation: Relation = { node: 'limit', input: distinct, count: VALUES_SHOWN + 1, order };
  const rows = yield { relation, columns: columnsOf(relation) };
  const values = rows.map((row) => readFound(origin, row));
  return { values: values.slice(0, VALUES_SHOWN), more: values.length > VALUES_SHOWN };
}

/** Every value of a field, in their order, without nulls: each with the values of other fields it stands beside. */
export interface EveryValue {
  readonly values: readonly (readonly (string | null)[])[];
  /** There are more than these. */
  readonly more: boolean;
}

export const EVERY_VALUE_MOST = 1_000;

export function* everyValue({ relation, value }: ValueOrigin, beside: readonly Field[]): Questioning<EveryValue> {
  const fields = [value, ...beside];
  const keys = fields.map((each, at) => column(`${VALUE}_${at}`, fieldOf(each)));
  const distinct: Relation = {
    node: 'group',
    input: { node: 'filter', input: relation, condition: not(isNull(fieldOf(value))) },
    keys,
    counts: [],
  };
  const order = keys.map(({ id }) => ({ of: fieldIn(distinct, id), descending: false, nullsFirst: false }));
  const limited: Relation = { node: 'limit', input: distinct, count: EVERY_VALUE_MOST + 1, order };
  const rows = yield { relation: limited, columns: columnsOf(limited) };
  const values = rows.map((row) =>
    fields.map((each, at) => {
      const text = row[at] ?? null;
      return text === null ? null : wireForm(each.type, text);
    }),
  );
  return { values: values.slice(0, EVERY_VALUE_MOST), more: values.length > EVERY_VALUE_MOST };
}

const VALUE = 'value';
const LABEL = 'label';
const ROWS = 'rows';

function distinctValues({ relation, value, label }: ValueOrigin, search: string): Relation {
  const own = fieldOf(value);
  const words = label ? fieldOf(label) : own;
  const sought = search.trim();
  const conditions = [
    not(isNull(own)),
    ...(sought === '' ? [] : [either(...[own, ...(label ? [words] : [])].map((each) => contains(asText(each), sought)))]),
  ];
  return {
    node: 'group',
    input: { node: 'filter', input: relation, condition: conditions.length > 1 ? all(...conditions) : (conditions[0] as Expression) },
    keys: [column(VALUE, own), ...(label ? [column(LABEL, asText(words))] : [])],
    counts: [{ id: ROWS }],
  };
}

/** A row of distinct values: the value, its label where there are any, and in how many rows it stands. */
function readFound({ value: field, label }: ValueOrigin, row: WireRow): FoundValue {
  const [value, second, third] = row;
  return { value: wireForm(field.type, value ?? ''), label: label ? (second ?? '') : '', rows: (label ? third : second) ?? '0' };
}

const contains = (of: Expression, sought: string): Expression => ({
  op: 'textMatch',
  type: { kind: 'yesno' },
  how: 'contains',
  // Digits have no case.
  of: of.op === 'cast' && of.of.type.kind !== 'text' ? of : call('lower', text, of),
  part: textLiteral(lowerCase(sought)),
});

const asText = (of: Expression): Expression => cast(of, text);

function fieldIn(relation: Relation, id: string): Expression {
  const found = columnsOf(relation).find((each) => each.id === id);
  return fieldOf(found ?? { id, type: whole });
}

/** Which of some values occur; the rest with the nearest that do. */
export interface KnownValues {
  readonly found: readonly FoundValue[];
  readonly missing: readonly MissingValue[];
}

export interface MissingValue {
  readonly value: string;
  readonly nearest: readonly FoundValue[];
}

/** For so many missing values the nearest ones are looked for. */
const NEAREST_FOR = 5;
const NEAREST_SHOWN = 3;

/** Throws a ProblemError where a value is not of the field's type. */
export function* knownValues(origin: ValueOrigin, values: readonly string[]): Questioning<KnownValues> {
  const { value } = origin;
  const distinct = [...new Set(values)];
  const typed = new Map(distinct.map((each) => [each, typedValue(value, each)]));
  const list = [...typed.values()].flatMap((each) => (each === null ? [] : [each]));
  const isListed: Expression = { op: 'inList', type: { kind: 'yesno' }, listType: value.type, of: fieldOf(value), id: ASKED };
  const relation: Relation = {
    node: 'group',
    input: { node: 'filter', input: origin.relation, condition: isListed },
    keys: [column(VALUE, fieldOf(value))],
    counts: [{ id: ROWS }],
  };
  const bound = new Map([[ASKED, { takes: 'several' as const, values: list }]]);
  const rows = list.length === 0 ? [] : yield { relation, columns: columnsOf(relation), bound };
  const counts = new Map(rows.map(([found, count]) => [wireForm(value.type, found ?? ''), count ?? '0']));
  const found: FoundValue[] = [];
  const missing: MissingValue[] = [];
  for (const each of distinct) {
    const count = counts.get(wireForm(value.type, each));
    if (count !== undefined) found.push({ value: each, label: '', rows: count });
    else missing.push({ value: each, nearest: missing.length < NEAREST_FOR ? yield* nearest(origin, each) : [] });
  }
  return { found, missing };
}

/** The list of values asked about, as a parameter of the statement. */
const ASKED = 'values asked';

/** The value that is asked for; null where it can be asked for in a clause and no row can hold it, as 20.005 of two decimals. */
function typedValue(field: Field, source: string): Exclude<Value, null> | null {
  const read = readValue(field.type, source);
  if (!read.ok && readValue(typedAs(field.type, source), source).ok) return null;
  if (!read.ok) refuse('value-wrong-type', `“${beginning(source, 60)}” is no value for ${field.name}.`, { field: field.id }, read.expected);
  return read.value;
}

/** The typed choices most like a value that is none of them, by their values or labels. */
export const nearestOf =
  (items: readonly Choice[]) =>
  (value: string): MissingValue => {
    const sought = value.trim().toLowerCase();
    const near = items
      .map((each) => ({ each, distance: Math.min(...[each.value, each.label].map((own) => editDistance(sought, own.toLowerCase()))) }))
      .filter(({ distance }) => distance <= farthest(sought))
      .sort((a, b) => a.distance - b.distance)
      .slice(0, NEAREST_SHOWN);
    return { value, nearest: near.map(({ each }) => ({ ...each, rows: '' })) };
  };

/** So many letters may differ in what is still near. */
const farthest = (sought: string) => Math.max(2, Math.ceil(sought.length / 2));

/** Existing values nearest to one that does not occur: for numbers and days those beside it, for text those most alike. */
function* nearest(origin: ValueOrigin, value: string): Questioning<readonly FoundValue[]> {
  return familyOf(origin.value.type) === 'text' ? yield* mostAlike(origin, value) : yield* besides(origin, value);
}

function* besides(origin: ValueOrigin, source: string): Questioning<readonly FoundValue[]> {
  const { value } = origin;
  const family = familyOf(value.type);
  if (family !== 'number' && family !== 'day') return [];
  // A number with all its digits, whatever the field holds.
  const type = family === 'number' ? typedAs(value.type, source) : value.type;
  const typed: Expression = { op: 'literal', type, value: valueOfWire(type, source) };
  const found: FoundValue[] = [];
  for (const below of [true, false]) {
    const condition = compare(below ? '<' : '>', fieldOf(value), typed);
    const distinct = distinctValues({ ...origin, relation: { node: 'filter', input: origin.relation, condition } }, '');
    const order = [{ of: fieldIn(distinct, VALUE), descending: below, nullsFirst: false }];
    const relation: Relation = { node: 'limit', input: distinct, count: 1, order };
    const rows = yield { relation, columns: columnsOf(relation) };
    found.push(...rows.map((row) => readFound(origin, row)));
  }
  return found;
}

/** Of so many candidates the distance is computed. */
const CANDIDATES = 60;
const MOST_PIECES = 24;

/**
 * Candidates share most pairs of letters with what was typed, whatever the case; among them the edit distance decides.
 * The engine counts the pairs, so that a million values never leave it.
 */
function* mostAlike(origin: ValueOrigin, source: string): Questioning<readonly FoundValue[]> {
  const sought = source.trim().toLowerCase();
  if (sought === '' || sought.length > 200) return [];
  const pieces = piecesOf(sought);
  const distinct = distinctValues(origin, '');
  const own = call('lower', text, asText(fieldIn(distinct, VALUE)));
  const shares = pieces.map((piece) => when(contains(own, piece), wholeLiteral(1), wholeLiteral(0)));
  const score = shares.reduce((left, right) => smallSum('+', left, right), wholeLiteral(0));
  const gap = call('abs', whole, smallSum('-', call('charLength', whole, own), wholeLiteral([...sought].length)));
  const scored: Relation = { node: 'calculate', input: distinct, fields: [column('score', score), column('gap', gap)] };
  const some: Relation = { node: 'filter', input: scored, condition: compare('>', fieldIn(scored, 'score'), wholeLiteral(0)) };
  const relation: Relation = {
    node: 'limit',
    input: some,
    count: CANDIDATES,
    order: [
      { of: fieldIn(scored, 'score'), descending: true, nullsFirst: false },
      { of: fieldIn(scored, 'gap'), descending: false, nullsFirst: false },
      { of: fieldIn(scored, ROWS), descending: true, nullsFirst: false },
    ],
  };
  const columns: readonly Column[] = columnsOf(distinct);
  const rows = yield { relation, columns } satisfies WantedRows;
  return rows
    .map((row) => readFound(origin, row))
    .map((each) => ({ each, distance: editDistance(sought, each.value.trim().toLowerCase()) }))
    .filter(({ each, distance }) => distance <= farthest(sought) && each.value !== source)
    .sort((a, b) => a.distance - b.distance || Number(b.each.rows) - Number(a.each.rows))
    .slice(0, NEAREST_SHOWN)
    .map(({ each }) => each);
}

/** Pairs of neighbouring letters; of short texts the letters themselves. */
function piecesOf(sought: string): readonly string[] {
  const letters = [...sought];
  if (letters.length < 4) return [...new Set(letters)];
  return [...new Set(letters.slice(1).map((letter, index) => `${letters[index]}${letter}`))].slice(0, MOST_PIECES);
}
