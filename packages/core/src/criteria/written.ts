import type { Tree } from '../expressions';
import { linkReferences, parseExpression, writtenName } from '../expressions';
import type { Field, FieldType, Schema } from '../fields';
import { fieldById, fieldByName } from '../fields';
import type { Parameter, RelativeDay, Stretch } from '../parameters';
import { parseRelativeDay, parseStretch, RELATIVE_UNITS, RELATIVE_WHICH, writeRelativeDay, writeStretch } from '../parameters';
import { parseDatetime, readValue } from '../values';
import type { Condition, Operand, WrittenClause } from './clause';
import type { OperandShape } from './operators';
import { familyOf, operatorByWord, operatorsFor } from './operators';

interface Names {
  readonly schema: Schema;
  readonly parameters: readonly Parameter[];
}

/** The condition as an expression that keeps the same rows; undefined while a slot is not filled or its value is none. */
export function writtenForm(clause: Condition, names: Names): WrittenClause | undefined {
  const text = writeCondition(clause, names);
  if (text === undefined) return undefined;
  return { id: clause.id, kind: 'expression', off: clause.off, expression: linkReferences(text, names) };
}

function writeCondition(clause: Condition, names: Names): string | undefined {
  const field = fieldById(names.schema, clause.field);
  const takes = operatorByWord(clause.operator)?.takes;
  if (!field || takes === undefined) return undefined;
  const stretch = takes === 'range' && familyOf(field.type) === 'day' ? writtenStretch(clause.operands) : undefined;
  const operands = stretch ?? clause.operands.map((each) => writeOperand(each, field, names));
  if (operands.some((each) => each === undefined)) return undefined;
  const [first] = clause.operands;
  const parameter = first?.kind === 'parameter' ? operands[0] : undefined;
  const filled = takes === 'range' && parameter !== undefined ? [parameter, parameter] : operands;
  const needed: Record<OperandShape, number> = { none: 0, one: 1, range: 2, several: Math.max(1, filled.length) };
  if (filled.length !== needed[takes]) return undefined;
  const byDay = operandsAreDays(clause, names);
  return template(field, clause.operator, filled as readonly string[], byDay, clause.andNulls);
}

/** Whether a finer field is compared with whole days. */
function operandsAreDays({ operands }: Condition, { schema, parameters }: Names): boolean {
  return operands.every((each) => {
    if (each.kind === 'value') return !/\d[ T]\d/.test(each.text.trim());
    if (each.kind === 'parameter') return parameters.find(({ id }) => id === each.id)?.type === 'date';
    return each.kind === 'field' && fieldById(schema, each.id)?.type.kind === 'date';
  });
}

/** How each operator is written, around operands that are written already. */
function template(field: Field, operator: string, operands: readonly string[], byDay: boolean, andNulls: boolean): string | undefined {
  const plain = writtenName('field', field.name);
  const finer = field.type.kind === 'datetime' || field.type.kind === 'instant';
  const of = finer && byDay && operands.length > 0 ? `cast(${plain} as date)` : plain;
  const text = conditionText(of, operator, operands);
  return text !== undefined && andNulls ? `(${text} or ${plain} is null)` : text;
}

const COMPARISONS: Readonly<Record<string, string>> = {
  is: '=',
  'is not': '<>',
  equals: '=',
  'differs from': '<>',
  'at least': '>=',
  'at most': '<=',
  above: '>',
  below: '<',
  on: '=',
  'not on': '<>',
  before: '<',
  after: '>',
  from: '>=',
  until: '<=',
};

function conditionText(of: string, operator: string, operands: readonly string[]): string | undefined {
  const [x = '', y = ''] = operands;
  const sign = COMPARISONS[operator];
  if (sign !== undefined) return `${of} ${sign} ${x}`;
  switch (operator) {
    case 'from…to':
    case 'within':
      return `${of} between ${x} and ${y}`;
    case 'outside':
      return `${of} not between ${x} and ${y}`;
    case 'one of':
      return `${of} in (${operands.join(', ')})`;
    case 'none of':
      return `${of} not in (${operands.join(', ')})`;
    case 'contains':
      return `position(${x} in ${of}) > 0`;
    case 'lacks':
      return `position(${x} in ${of}) = 0`;
    case 'begins':
      return `position(${x} in ${of}) = 1`;
    case 'ends':
      return `substring(${of} from cast(char_length(${of}) - char_length(${x}) + 1 as integer)) = ${x}`;
    case 'fits':
      return `${of} like ${x}`;
    case 'is empty':
      return `${of} = ''`;
    case 'is yes':
      return of;
    case 'is no':
      return `not ${of}`;
    case 'is null':
      return `${of} is null`;
    case 'has a value':
      return `${of} is not null`;
    default:
      return undefined;
  }
}

function writeOperand(operand: Operand, field: Field, { schema, parameters }: Names): string | undefined {
  switch (operand.kind) {
    case 'parameter': {
      const found = parameters.find((each) => each.id === operand.id);
      return found && `:${found.name}`;
    }
    case 'field': {
      const found = fieldById(schema, operand.id);
      return found && writtenName('field', found.name);
    }
    case 'expression':
      return operand.expression.text.trim() === '' ? undefined : `(${operand.expression.text.trim()})`;
    case 'value':
      return writeTyped(operand.text, field.type);
  }
}

function writeTyped(text: string, type: FieldType): string | undefined {
  switch (familyOf(type)) {
    case 'text':
      return `'${text.replaceAll("'", "''")}'`;
    case 'number':
      return /^[+-]?(\d+\.?\d*|\.\d+)$/.test(text.trim()) ? text.trim() : undefined;
    case 'day': {
      const relative = parseRelativeDay(text);
      if (relative) return writeDay(relative);
      if (readValue({ kind: 'date' }, text).ok) return `date '${text.trim()}'`;
      return parseDatetime(text) === undefined ? undefined : `timestamp '${text.trim()}'`;
    }
    default:
      return undefined;
  }
}

function writtenStretch(operands: readonly Operand[]): readonly string[] | undefined {
  const [first] = operands;
  const stretch = first?.kind === 'value' ? parseStretch(first.text) : undefined;
  return stretch && [writeEdge('start', stretch), stretch.soFar ? 'current_date' : writeEdge('end', stretch)];
}

function writeDay(day: RelativeDay): string {
  if (day.at !== 'today') return day.of.soFar && day.at === 'end' ? 'current_date' : writeEdge(day.at, day.of);
  return moved(day.days, 'day');
}

/** The first or last day of a stretch, by the functions of the language. */
function writeEdge(at: 'start' | 'end', { which, count, unit, soFar }: Stretch): string {
  const [first, last] = which === 'this' ? [0, 0] : which === 'next' ? [1, count] : soFar ? [1 - count, 0] : [-count, -1];
  const by = at === 'start' ? first : last;
  if (unit === 'day') return moved(by, 'day');
  const [length, interval] = { week: [7, 'day'], month: [1, 'month'], quarter: [3, 'month'], season: [12, 'month'], year: [12, 'month'] }[
    unit
  ] as [number, string];
  return `${at}_of_${unit}(${moved(by * length, interval)})`;
}

function moved(by: number, unit: string): string {
  return by === 0 ? 'current_date' : `current_date ${by < 0 ? '-' : '+'} interval '${Math.abs(by)}' ${unit}`;
}

/** The condition an expression says, where its slots can say it; undefined where only an expression can. */
export function slotForm(clause: WrittenClause, names: Names): Condition | undefined {
  const { text } = clause.expression;
  const parsed = parseExpression(text);
  if (parsed.problems.length > 0) return undefined;
  for (const field of fieldsNamed(text, names.schema)) {
    for (const operator of operatorsFor(field.type)) {
      for (const [byDay, andNulls] of WAYS) {
        const written = template(field, operator.word, PLACES[operator.takes], byDay, andNulls);
        const shape = written === undefined ? undefined : parseExpression(written);
        const found = shape?.problems.length === 0 ? captured(shape.tree, parsed.tree) : undefined;
        const operands = found && readOperands(found, operator.takes, field, text, names);
        if (operands)
          return { id: clause.id, kind: 'condition', off: clause.off, field: field.id, operator: operator.word, operands, andNulls };
      }
    }
  }
  return undefined;
}

const WAYS = [
  [false, false],
  [false, true],
  [true, false],
  [true, true],
] as const;

/** Parameters that stand for operands in a template; no dataset has a parameter of such a name. */
const PLACES: Readonly<Record<OperandShape, readonly string[]>> = { none: [], one: [':_1_'], range: [':_1_', ':_2_'], several: [':_1_'] };

function fieldsNamed(text: string, schema: Schema): readonly Field[] {
  const { refs } = linkReferences(text, { schema, parameters: [] });
  return [...new Set(refs.map((each) => each.id))].flatMap((id) => fieldById(schema, id) ?? []);
}

type Captured = Map<string, readonly Tree[]>;

/** What stands in the places of a template; undefined where the tree is not of its shape. Where parts stand in the text does not matter. */
function captured(template: unknown, actual: unknown, found: Captured = new Map()): Captured | undefined {
  if (Array.isArray(template) && Array.isArray(actual)) {
    const place = placeOf(template.length === 1 ? template[0] : undefined);
    if (place !== undefined) return capture(place, actual as readonly Tree[], found);
    return template.length === actual.length && template.every((each, index) => captured(each, actual[index], found)) ? found : undefined;
  }
  if (typeof template !== 'object' || template === null || typeof actual !== 'object' || actual === null)
    return template === actual ? found : undefined;
  const place = placeOf(template);
  if (place !== undefined) return capture(place, [actual as Tree], found);
  const keys = [...new Set([...Object.keys(template), ...Object.keys(actual)])].filter((key) => !SPANS.has(key));
  const same = keys.every((key) => captured((template as Record<string, unknown>)[key], (actual as Record<string, unknown>)[key], found));
  return same ? found : undefined;
}

const SPANS = new Set(['from', 'to', 'nameAt', 'typeAt']);

function placeOf(node: unknown): string | undefined {
  const tree = node as Tree | undefined;
  return tree?.node === 'parameter' && /^_\d_$/.test(tree.name) ? tree.name : undefined;
}

function capture(place: string, trees: readonly Tree[], found: Captured): Captured | undefined {
  const known = found.get(place);
  if (known) return captured(known, trees) ? found : undefined;
  found.set(place, trees);
  return found;
}

function readOperands(found: Captured, takes: OperandShape, field: Field, text: string, names: Names): readonly Operand[] | undefined {
  const trees = [...found.values()].flat();
  const [first, second] = trees;
  const parameter = first?.node === 'parameter' ? names.parameters.find((each) => each.name === first.name) : undefined;
  if (parameter) {
    const alone = trees.length === 1 || (takes === 'range' && second?.node === 'parameter' && second.name === parameter.name);
    return alone && parameter.takes === takes ? [{ kind: 'parameter', id: parameter.id }] : undefined;
  }
  const stretch = takes === 'range' ? stretchOf(trees) : undefined;
  if (stretch) return [{ kind: 'value', text: writeStretch(stretch) }];
  const operands = trees.map((each) => readOperand(each, field, text, names));
  return operands.some((each) => each === undefined) ? undefined : (operands as readonly Operand[]);
}

function readOperand(tree: Tree, field: Field, text: string, { schema }: Names): Operand | undefined {
  const family = familyOf(field.type);
  if (tree.node === 'string') return family === 'text' ? { kind: 'value', text: tree.text } : undefined;
  if (tree.node === 'dated' && tree.type !== 'time') return { kind: 'value', text: tree.text };
  if (tree.node === 'number') return family === 'number' ? { kind: 'value', text: tree.text } : undefined;
  if (tree.node === 'negate' && tree.of.node === 'number') return { kind: 'value', text: `-${tree.of.text}` };
  if (tree.node === 'parameter' || tree.node === 'constant') return undefined;
  if (tree.node === 'name') {
    const other = fieldByName(schema, tree.name, tree.quoted);
    return other && { kind: 'field', id: other.id };
  }
  const day = family === 'day' ? relativeOf(tree) : undefined;
  if (day) return { kind: 'value', text: writeRelativeDay(day) };
  const slice = text.slice(tree.from, tree.to);
  return { kind: 'expression', expression: linkReferences(slice, { schema, parameters: [] }) };
}

const sameTree = (written: string, tree: Tree) => captured(parseExpression(written).tree, tree) !== undefined;

/** Relative days and stretches are few once their count is known; each is written and compared. */
function stretches(count: number): readonly Stretch[] {
  return RELATIVE_UNITS.flatMap((unit) =>
    RELATIVE_WHICH.flatMap((which) =>
      [false, true].flatMap((soFar) =>
        (which === 'next' && soFar) || (which === 'this' && count > 1) ? [] : [{ which, count, unit, soFar }],
      ),
    ),
  );
}

const COUNTS = [1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 14, 18, 21, 24, 26, 28, 30, 36, 52, 60, 90, 100, 120, 180, 365];

function relativeOf(tree: Tree): RelativeDay | undefined {
  const amount = tree.node === 'arithmetic' && tree.right.node === 'interval' && tree.right.unit === 'day' ? Number(tree.right.amount) : 0;
  const plain = [0, amount, -amount].map((days): RelativeDay => ({ at: 'today', days })).find((day) => sameTree(writeDay(day), tree));
  if (plain) return plain;
  for (const count of COUNTS) {
    for (const of of stretches(count)) {
      if (of.soFar || of.unit === 'day') continue;
      const day = (['start', 'end'] as const).map((at): RelativeDay => ({ at, of })).find((each) => sameTree(writeDay(each), tree));
      if (day) return day;
    }
  }
  return undefined;
}

function stretchOf(trees: readonly Tree[]): Stretch | undefined {
  const [from, until] = trees;
  if (!from || !until) return undefined;
  return COUNTS.flatMap(stretches).find((each) => {
    const [first = '', last = ''] = writtenStretch([{ kind: 'value', text: writeStretch(each) }]) ?? [];
    return sameTree(first, from) && sameTree(last, until);
  });
}
