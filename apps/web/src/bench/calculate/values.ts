import type {
  AbsentField,
  Binding,
  Calendar,
  Expression,
  ExpressionText,
  GivenValues,
  Parameter,
  Part,
  Problem,
  Row,
  Schema,
  Span,
  Traced,
  Value,
  Window,
} from '@cendra/core';
import {
  bindDefinition,
  checkExpression,
  evaluate,
  failureOf,
  fieldById,
  fieldsUsed,
  liveColumns,
  readValue,
  rowOf,
  trace,
  typeWord,
  windowsOf,
  writeValue,
} from '@cendra/core';
import type { Cell } from '../../ui/cell';

/** An expression in its place: what it may name, and how the dataset counts weeks and years. */
export interface Written {
  readonly expression: ExpressionText;
  readonly schema: Schema;
  readonly absent: readonly AbsentField[];
  readonly parameters: readonly Parameter[];
  readonly calendar: Calendar;
}

/** What the check of an expression says; small enough to cross between threads at every key. */
export interface Verdict {
  readonly problems: readonly Problem[];
  /** Its type in words; undefined when there are problems. */
  readonly type?: string;
  /** Ids of the fields it uses. */
  readonly used: readonly string[];
  /** What it computes over other rows; changes when the engine has to be asked again. */
  readonly otherRows: string;
}

/** Rows as they came from the server, by column id. */
export interface LiveRows {
  readonly columns: readonly string[];
  readonly rows: readonly (readonly Cell[])[];
  /** What the rows were asked for; values over other rows are known for no other text. */
  readonly otherRows: string;
}

/** A value as it is shown. */
export interface Shown {
  readonly text: string | null;
  readonly failed: boolean;
  /** It cannot be told from the rows at hand. */
  readonly unknown: boolean;
}

export interface LiveValue {
  readonly whole: Shown;
  /** The value of the part that is pointed at. */
  readonly part: Shown;
}

export interface ShownTrace extends Span {
  readonly type: string;
  readonly shown: Shown;
  readonly reached: boolean;
  readonly frame?: Frame;
  readonly parts: readonly ShownTrace[];
}

/** The rows a value over other rows was made from. */
export interface Frame {
  readonly window: number;
  readonly partition: readonly (string | null)[];
  readonly from: number;
  readonly until: number;
  /** The row's own place in the order. */
  readonly place: number;
}

/** The parameter values in use, and the moment that counts as now, in microseconds of UTC. */
export interface Given {
  readonly values: GivenValues;
  readonly now: bigint;
}

const checkOf = ({ expression, ...scope }: Written) => checkExpression(expression.text, { ...scope, refs: expression.refs });

export function verdictOf(written: Written): Verdict {
  const { expression, problems } = checkOf(written);
  if (!expression) return { problems, used: [], otherRows: '' };
  const otherRows = windowsOf(expression).length > 0 ? written.expression.text : '';
  return { problems, type: typeWord(expression.type), used: fieldsUsed(expression), otherRows };
}

/** The smallest part of the text that holds a position and has a value of its own. */
export function partAt(root: Part, at: Span): Part {
  const inside = root.parts.find((each) => each.from <= at.from && at.to <= each.to);
  return inside ? partAt(inside, at) : root;
}

/** The value of the whole and of the part at a position, for each row. Undefined for an expression with problems. */
export function liveValues(written: Written, live: LiveRows, given: Given, at: Span | undefined) {
  const checked = checkOf(written);
  if (!checked.expression || !checked.part) return undefined;
  const part = at ? partAt(checked.part, at) : checked.part;
  const windows = windowsOf(checked.expression);
  const known = windows.length === 0 || live.otherRows === written.expression.text;
  const binding = bindDefinition(written, given.values, given.now);
  const values = live.rows.map((cells): LiveValue => {
    const row = readRow(written, live, cells, binding, windows);
    return { whole: shown(checked.part as Part, row, known), part: shown(part, row, known) };
  });
  return { part: { from: part.from, to: part.to }, type: typeWord(part.expression.type), values };
}

/** How the value of one row came about, and which rows its values over other rows were made from. */
export function traceOf(written: Written, live: LiveRows, given: Given, at: number): ShownTrace | undefined {
  const checked = checkOf(written);
  const cells = live.rows[at];
  if (!checked.part || !checked.expression || !cells) return undefined;
  const windows = windowsOf(checked.expression);
  const { row, marks } = readRow(written, live, cells, bindDefinition(written, given.values, given.now), windows);
  const number = (id: string) => Number(cells[live.columns.indexOf(id) + 1] ?? 0);
  const frameOf = (index: number): Frame | undefined => {
    const node = windows[index];
    if (!node) return undefined;
    const { place, peers } = liveColumns(index);
    const partition = node.partition.map((of) => wireOf(of.type, evaluate(of, row)));
    return { window: index, partition, place: number(place), ...bounds(node, number(place), number(peers)) };
  };
  const told = (each: Traced, part: Part): ShownTrace => {
    const frame = each.window === undefined ? undefined : frameOf(each.window);
    return {
      from: each.from,
      to: each.to,
      type: typeWord(each.type),
      shown: { text: markOf(part.expression, marks) ?? wireOf(each.type, each.value), failed: each.failed, unknown: false },
      reached: each.reached,
      ...(frame ? { frame } : {}),
      parts: each.parts.map((inner, index) => told(inner, part.parts[index] ?? part)),
    };
  };
  return told(trace(checked.part, row), checked.part);
}

/** RunSites in the order, from 1; `peers` is how many rows there are up to the row and its equals. */
function bounds(node: Window, place: number, peers: number): { readonly from: number; readonly until: number } {
  const step = node.step ?? 1;
  if (node.name === 'lag' || node.name === 'lead') {
    const at = node.name === 'lag' ? place - step : place + step;
    return { from: at, until: at };
  }
  if (node.name === 'first') return { from: 1, until: 1 };
  if (!node.frame) return { from: 1, until: peers };
  const { from, until } = node.frame;
  return { from: from === undefined ? 1 : Math.max(1, place + from), until: until === undefined ? 1_000_000_000 : place + until };
}

interface ReadRow {
  readonly row: Row;
  /** Fields whose cell is too long to be here whole. */
  readonly missing: ReadonlySet<string>;
  /** What fits no type of its field, as the source has it. */
  readonly marks: ReadonlyMap<string, string>;
}

function readRow({ schema }: Written, live: LiveRows, cells: readonly Cell[], binding: Binding, windows: readonly Window[]): ReadRow {
  const missing = new Set<string>();
  const marks = new Map<string, string>();
  const read = new Map<string, Value>();
  live.columns.forEach((id, index) => {
    const cell = cells[index + 1] ?? null;
    const field = fieldById(schema, id);
    if (!field || cell === null) return;
    const value = typeof cell === 'string' ? readValue(field.type, cell) : undefined;
    if (value?.ok) read.set(id, value.value);
    else if (typeof cell === 'object' && 'm' in cell) marks.set(id, cell.m);
    else missing.add(id);
  });
  const window = (node: Window): Value => {
    const cell = cells[live.columns.indexOf(liveColumns(windows.indexOf(node)).value) + 1];
    const value = typeof cell === 'string' ? readValue(node.type, cell) : undefined;
    return value?.ok ? value.value : null;
  };
  return { row: { ...rowOf(read, binding, window), misfit: (id) => marks.has(id) }, missing, marks };
}

function shown({ expression }: Part, { row, missing, marks }: ReadRow, known: boolean): Shown {
  const unknown = fieldsUsed(expression).some((id) => missing.has(id)) || (!known && windowsOf(expression).length > 0);
  if (unknown) return { text: null, failed: false, unknown };
  const value = evaluate(expression, row);
  const failure = value === null ? failureOf(expression) : undefined;
  return {
    text: markOf(expression, marks) ?? wireOf(expression.type, value),
    failed: failure !== undefined && evaluate(failure, row) === true,
    unknown,
  };
}

/** A field handed on as it is shows what its source has there. */
const markOf = (expression: Expression, marks: ReadonlyMap<string, string>) =>
  expression.op === 'field' ? marks.get(expression.id) : undefined;

const wireOf = (type: Part['expression']['type'], value: Value): string | null => (value === null ? null : writeValue(type, value));
