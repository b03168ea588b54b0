import type { Expression } from '../expressions';
import {
  NULL,
  all,
  blanksAsNull,
  compare,
  disjunction,
  evaluate,
  failureOf,
  fieldsUsed,
  isNull,
  isTrue,
  textLiteral,
  wholeLiteral,
  widen,
  withFields,
  yes,
} from '../expressions';
import type { FieldType } from '../fields';
import { text, whole } from '../fields';
import type { Binding } from '../parameters';
import type { CalculatedColumn, Column, Relation } from '../sql';
import { calculated, valueOf } from '../sql';
import type { Value } from '../values';
import { ofWhole } from '../values';
import type { CheckedValue } from './figures';
import type { CheckedAmount, CheckedLine, CheckedLineSheet } from './line-sheet-check';
import { baseId, figureType, patternOf } from './line-sheet-check';
import type { LineSheetStep } from './line-sheet';
import { rowOf } from './rows';
import type { SheetAmount } from './sheet-line';
import type { Checked, Rows } from './step';
import { summaryRelation } from './summary-relation';
import { summaryRows } from './summary-rows';

type Own = Checked<LineSheetStep, CheckedLineSheet>;

/** A figure of the one row all lines are told of: of a line, in an amount. */
const figureId = (line: string, amount: string) => `${line} ${amount}`;
const toldId = (line: string, amount: string) => `${line} ${amount} told`;

const ofRows = ({ checked }: Pick<Own, 'checked'>): readonly CheckedAmount[] =>
  checked.amounts.filter(({ amount }) => amount.of.from === 'rows');

/** The figures that are told of the rows of a slot, once for each amount. */
function toldOf({ checked }: Pick<Own, 'checked'>, slot: number): readonly CheckedValue[] {
  return checked.lines.flatMap(({ line, told, slot: own }) => {
    if (!told || own !== slot) return [];
    return ofRows({ checked }).map(({ amount, among }): CheckedValue => {
      const id = toldId(line.id, amount.id);
      const condition = both(told.among, among[slot]);
      const value = { ...told, value: { ...told.value, id, name: id } };
      return condition ? { ...value, among: condition } : value;
    });
  });
}

const both = (a: Expression | undefined, b: Expression | undefined) => (a && b ? all(isTrue(a), isTrue(b)) : (a ?? b));

/** Among which rows of its slot a line is told, in any amount; undefined for all. */
export function rowsOfLine({ checked }: Pick<Own, 'checked'>, { told, slot = 0 }: CheckedLine, amount?: string): Expression | undefined {
  const amounts = ofRows({ checked }).filter((each) => amount === undefined || each.amount.id === amount);
  const conditions = amounts.map(({ among }) => both(told?.among, among[slot]));
  return conditions.some((each) => each === undefined)
    ? undefined
    : disjunction(conditions.flatMap((each) => (each ? [isTrue(each)] : [])));
}

/** What a calculated line is in an amount. */
function calculatedIn({ checked }: Pick<Own, 'checked'>, made: Expression, amount: string, { blanks }: Binding): Expression {
  const ids = new Map(checked.lines.map(({ line }) => [line.id, figureId(line.id, amount)]));
  return withFields(blanksAsNull(made, blanks), ids);
}

/** Columns on one row that holds what was told: each line's figure in each amount, in the order they can be calculated in. */
function figureColumns(own: Own, binding: Binding): readonly CalculatedColumn[] {
  const { step, checked } = own;
  return checked.order.flatMap((each) => {
    const { line, told, calculated: made } = each;
    const type = figureType(each);
    if (!type) return [];
    return ofRows(own).flatMap(({ amount }): readonly CalculatedColumn[] => {
      const id = figureId(line.id, amount.id);
      const figure = told
        ? orZero(step, field(toldId(line.id, amount.id), told.type))
        : made && calculatedIn(own, made, amount.id, binding);
      return figure ? [{ id, name: id, type, expression: widen(figure, type) }] : [];
    });
  });
}

const orZero = ({ empty }: LineSheetStep, of: Expression): Expression =>
  empty === 'blank' ? of : { op: 'coalesce', type: of.type, items: [of, widen(wholeLiteral(0), of.type)] };

const lineNumber = ({ names }: LineSheetStep): Column => ({ ...names.line, type: whole });

/** What each line gives to the row that is its own. */
function byLine({ step, checked }: Own, type: FieldType, of: (line: CheckedLine) => Expression | undefined): Expression {
  const number = valueOf(lineNumber(step));
  const nothing: Expression = { op: 'literal', type, value: null };
  const branches = checked.lines.flatMap((line, at) => {
    const then = of(line);
    return then ? [{ when: compare('=', number, wholeLiteral(at + 1)), then }] : [];
  });
  return branches.length === 0 ? nothing : { op: 'case', type, branches, otherwise: nothing };
}

const hasFigure = (line: CheckedLine) => figureType(line) !== undefined;
const field = (id: string, type: FieldType): Expression => ({ op: 'field', type, id });

/** Columns of the sheet on that row and the number of a line; each may use the ones before it. */
function sheetColumns(own: Own, binding: Binding): readonly CalculatedColumn[] {
  const { step, checked } = own;
  const { names } = step;
  const amounts = checked.amounts.flatMap(({ amount, type, calculated: made }): readonly CalculatedColumn[] => {
    const expression = made
      ? inItsLines(own, amount, blanksAsNull(made, binding.blanks))
      : byLine(own, type, (line) => {
          const figure = figureType(line);
          return figure && widen(field(figureId(line.line.id, amount.id), figure), type);
        });
    const column = { id: amount.id, name: amount.name, type, expression };
    return [...bases(own, checked.amounts, column), column];
  });
  const texts = step.texts
    ? checked.amounts.map(({ amount, type, shown }): CalculatedColumn => {
        const expression = byLine(own, text, (line) => (hasFigure(line) ? shown.get(patternOf(line.line, amount, type)) : undefined));
        return { id: amount.text, name: textName(amount), type: text, expression };
      })
    : [];
  const texted = (item: { readonly id: string; readonly name: string }, of: (line: CheckedLine) => string): CalculatedColumn => ({
    ...item,
    type: text,
    // Of a blank line nothing is said.
    expression: byLine(own, text, (line) => (of(line) === '' ? undefined : textLiteral(of(line)))),
  });
  return [
    texted(names.place, ({ line }) => line.place),
    texted(names.wording, ({ line }) => line.wording),
    { ...names.level, type: whole, expression: byLine(own, whole, ({ line }) => wholeLiteral(line.level)) },
    texted(names.kind, ({ line }) => line.kind),
    ...amounts,
    ...texts,
    { ...names.note, type: text, expression: byLine(own, text, (line) => noteOf(own, line, binding)) },
  ];
}

/** A share that is told of the parts of its line only is blank in the others. */
function inItsLines(own: Own, { of }: SheetAmount, made: Expression): Expression {
  if (of.from !== 'share' || of.within === 'every line') return made;
  const parts = partsOf(own, of.line, new Set());
  return byLine(own, made.type, ({ line }) => (parts.has(line.id) ? made : undefined));
}

/** A line and those it is made of, whatever lies between. */
function partsOf(own: Pick<Own, 'checked'>, line: string, found: Set<string>): ReadonlySet<string> {
  if (found.has(line)) return found;
  found.add(line);
  const made = own.checked.lines.find((each) => each.line.id === line)?.calculated;
  for (const id of made ? fieldsUsed(made) : []) partsOf(own, id, found);
  return found;
}

/** What an amount is in the lines that others are shares of: the same in every row. */
function bases({ checked }: Own, amounts: readonly CheckedAmount[], column: CalculatedColumn): readonly CalculatedColumn[] {
  const asked = amounts.flatMap(({ amount }) => (amount.of.from === 'share' && amount.of.amount === column.id ? [amount.of.line] : []));
  return [...new Set(asked)].map((id) => {
    const line = checked.lines.find((each) => each.line.id === id);
    const type = line && figureType(line);
    const expression: Expression = type
      ? widen(field(figureId(id, column.id), type), column.type)
      : { op: 'literal', type: column.type, value: null };
    return { id: baseId(column.id), name: baseId(column.id), type: column.type, expression };
  });
}

/** Why a line is blank although it has figures, or that there are no rows behind its 0. */
function noteOf(own: Own, checked: CheckedLine, binding: Binding): Expression | undefined {
  const { line, told, calculated: made } = checked;
  const amounts = ofRows(own).map(({ amount }) => amount.id);
  const failed = amounts.flatMap((each) => {
    const figure = told ? field(toldId(line.id, each), told.type) : calculatedIn(own, made ?? NULL, each, binding);
    const failure = failureOf(widen(figure, figureType(checked) ?? figure.type));
    return failure ? [isTrue(failure)] : [];
  });
  const counts = told && ['rows', 'count', 'distinct count'].includes(told.value.aggregate);
  const empty = told && !counts ? amounts.map((each) => isNull(field(toldId(line.id, each), told.type))) : [];
  const said = [
    { when: disjunction(empty), then: textLiteral(own.step.empty === 'blank' ? 'no row has a value' : 'no row has a value, shown as 0') },
    { when: disjunction(failed), then: textLiteral(told ? TOO_LONG : 'cannot be calculated: it divides by 0, or has too many digits') },
  ].filter((_each, at) => [empty, failed][at]?.length);
  return said.length === 0 ? undefined : { op: 'case', type: text, branches: said, otherwise: { op: 'literal', type: text, value: null } };
}

const TOO_LONG = 'has more digits than a line holds';

/** The columns it gives, in their order. */
export function sheetFields({ step, checked }: Pick<Own, 'step' | 'checked'>): readonly Column[] {
  const { line, place, wording, level, kind, note } = step.names;
  const texted = (item: { readonly id: string; readonly name: string }): Column => ({ ...item, type: text });
  return [
    { ...line, type: whole },
    texted(place),
    texted(wording),
    ...checked.amounts.flatMap(({ amount, type }): readonly Column[] => [
      { id: amount.id, name: amount.name, type },
      ...(step.texts ? [texted({ id: amount.text, name: textName(amount) })] : []),
    ]),
    { ...level, type: whole },
    texted(kind),
    texted(note),
  ];
}

const textName = ({ name }: { readonly name: string }) => `${name}_as_shown`;

/** Rows of all steps that lines are told of become one row each, which stand side by side; then each line takes its figures from there. */
export function lineSheetRelation(own: Own, inputs: readonly Relation[], binding: Binding): Relation {
  const { step, checked, title } = own;
  const sides = inputs.flatMap((input, slot): readonly Relation[] => {
    const values = toldOf(own, slot);
    // The first one stands there in any case: it says where the sheet is made.
    if (values.length === 0) return slot === 0 ? [{ node: 'group', input, keys: [], counts: [{ id: `${step.id} rows` }] }] : [];
    return [summaryRelation({ step, title: '', checked: { keys: [], values } }, [input], binding)];
  });
  const numbers: Relation = { node: 'numbers', count: checked.lines.length, column: lineNumber(step) };
  const [first, ...others] = sides;
  if (!first) throw new RangeError('a line sheet has one input at least');
  const beside = (left: Relation, right: Relation): Relation => ({ node: 'join', left, right, on: yes, keeps: 'pairs' });
  const one = calculated(others.reduce(beside, first), figureColumns(own, binding), undefined);
  const made = calculated(beside(one, numbers), sheetColumns(own, binding), undefined);
  return { node: 'choose', name: title, input: made, columns: sheetFields(own) };
}

/** The rows in core: what is told of each slot, then line by line. */
export function lineSheetRows(own: Own, inputs: readonly Rows[], binding: Binding): Rows {
  const { step, checked } = own;
  const one = new Map<string, Value>();
  inputs.forEach((rows, slot) => {
    const values = toldOf(own, slot);
    const [told] = values.length === 0 ? [] : summaryRows({ step, title: '', checked: { keys: [], values } }, [rows], binding);
    for (const [id, value] of told ?? []) one.set(id, value);
  });
  const figures = withColumns(one, figureColumns(own, binding), binding);
  const fields = sheetFields(own);
  const columns = sheetColumns(own, binding);
  return checked.lines.map((_line, at) => {
    const row = withColumns(new Map([...figures, [step.names.line.id, ofWhole(BigInt(at + 1))]]), columns, binding);
    return new Map(fields.map(({ id }) => [id, row.get(id) ?? null]));
  });
}

function withColumns(row: ReadonlyMap<string, Value>, columns: readonly CalculatedColumn[], binding: Binding): ReadonlyMap<string, Value> {
  const made = new Map(row);
  for (const { id, expression } of columns) made.set(id, evaluate(expression, rowOf(made, binding)));
  return made;
}
