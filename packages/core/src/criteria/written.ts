import type { Tree } from '../expressions';
import { checkExpression, linkReferences, parseExpression, writtenName } from '../expressions';
import type { Field, FieldType, Schema } from '../fields';
import { date, fieldById, fieldByName } from '../fields';
import type { Parameter, RelativeDay, Stretch } from '../parameters';
import {
  parameterType,
  parseRelativeDay,
  parseStretch,
  RELATIVE_UNITS,
  RELATIVE_WHICH,
  writeRelativeDay,
  writeStretch,
} from '../parameters';
import { readValue } from '../values';
import { typedAs } from './check';
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

/** What an operand is compared as where the field is finer than a day: a whole day, clock time of the dataset's zone, or an instant. */
type Grain = 'day' | 'moment' | 'instant';

interface WrittenOperand {
  readonly text: string;
  readonly grain: Grain;
}

function writeCondition(clause: Condition, names: Names): string | undefined {
  const field = fieldById(names.schema, clause.field);
  const takes = operatorByWord(clause.operator)?.takes;
  if (!field || takes === undefined) return undefined;
  const stretch = takes === 'range' && familyOf(field.type) === 'day' ? writtenStretch(clause.operands) : undefined;
  const operands = stretch?.map((text): WrittenOperand => ({ text, grain: 'day' })) ?? writeOperands(clause.operands, field, names);
  if (!operands) return undefined;
  const [first] = clause.operands;
  const [parameter] = first?.kind === 'parameter' ? operands : [];
  const filled = takes === 'range' && parameter !== undefined ? [parameter, parameter] : operands;
  const needed: Record<OperandShape, number> = { none: 0, one: 1, range: 2, several: Math.max(1, filled.length) };
  return filled.length === needed[takes] ? template(field, clause.operator, filled, clause.andNulls) : undefined;
}

function writeOperands(operands: readonly Operand[], field: Field, names: Names): readonly WrittenOperand[] | undefined {
  const written = operands.flatMap((each): readonly WrittenOperand[] => {
    const text = writeOperand(each, field, names);
    const type = text === undefined ? undefined : operandType(each, field, names);
    return text === undefined || type === undefined ? [] : [{ text, grain: grainOf(type) }];
  });
  return written.length === operands.length ? written : undefined;
}

const grainOf = ({ kind }: FieldType): Grain => (kind === 'date' ? 'day' : kind === 'instant' ? 'instant' : 'moment');

function operandType(operand: Operand, field: Field, { schema, parameters }: Names): FieldType | undefined {
  switch (operand.kind) {
    case 'value': {
      if (familyOf(field.type) === 'day' && parseRelativeDay(operand.text)) return date;
      const type = typedAs(field.type, operand.text);
      return readValue(type, operand.text).ok ? type : undefined;
    }
    case 'parameter': {
      const found = parameters.find(({ id }) => id === operand.id);
      return found && parameterType(found);
    }
    case 'field':
      return fieldById(schema, operand.id)?.type;
    case 'expression':
      return checkExpression(operand.expression.text, { schema, parameters, refs: operand.expression.refs }).expression?.type;
  }
}

/** How each operator is written, around operands that are written already. */
function template(field: Field, operator: string, operands: readonly WrittenOperand[], andNulls: boolean): string | undefined {
  const plain = writtenName('field', field.name);
  const [low, high] = operands;
  const text =
    low && high && operatorByWord(operator)?.takes === 'range' && compared(field, low) !== compared(field, high)
      ? betweenText(operator, `${compared(field, low)} >= ${low.text} and ${compared(field, high)} <= ${high.text}`)
      : conditionText(
          low ? compared(field, low) : plain,
          operator,
          operands.map((each) => each.text),
        );
  return text !== undefined && andNulls ? `(${text} or ${plain} is null)` : text;
}

/** The field as it is compared with an operand: by whole days, by clocks, or as it is. */
function compared(field: Field, { grain }: WrittenOperand): string {
  const plain = writtenName('field', field.name);
  if (field.type.kind === 'datetime') return grain === 'day' ? `cast(${plain} as date)` : plain;
  if (field.type.kind !== 'instant' || grain === 'instant') return plain;
  return `cast(${plain} as ${grain === 'day' ? 'date' : 'timestamp'})`;
}

const betweenText = (operator: string, within: string) => (operator === 'outside' ? `not (${within})` : within);

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
      return `not position(${x} in ${of}) > 0`;
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
      return writeNumber(text.trim(), type);
    case 'day': {
      const relative = parseRelativeDay(text);
      if (relative) return writeDay(relative);
      if (readValue({ kind: 'date' }, text).ok) return `date '${text.trim()}'`;
      return readValue(typedAs(type, text), text).ok ? `timestamp '${text.trim()}'` : undefined;
    }
    default:
      return undefined;
  }
}

/** In the digits that were typed; with an exponent it is a floating number, as only a floating field takes it. */
function writeNumber(text: string, type: FieldType): string | undefined {
  const [, sign = '', digits = '', decimals = '', exponent = ''] = /^([+-]?)(\d*)(?:\.(\d*))?([eE][+-]?\d+)?$/.exec(text) ?? [];
  if (digits === '' && decimals === '') return undefined;
  if (exponent !== '' && type.kind !== 'float') return undefined;
  return `${sign === '-' ? '-' : ''}${digits || '0'}${decimals === '' ? '' : `.${decimals}`}${exponent}`;
}

function writtenStretch(operands: readonly Operand[]): readonly string[] | undefined {
  const [first] = operands;
  const stretch = first?.kind === 'value' ? parseStretch(first.text) : undefined;
  return stretch && [writeEdge('start', stretch), writeEdge('end', stretch)];
}

function writeDay(day: RelativeDay): string {
  return day.at === 'today' ? moved(day.days, 'day') : writeEdge(day.at, day.of);
}

/** The first or last day of a stretch, by the functions of the language. */
function writeEdge(at: 'start' | 'end', { which, count, unit, soFar }: Stretch): string {
  // Between two seasons the last one has ended already.
  if (soFar && at === 'end') return unit === 'season' ? 'least(current_date, end_of_season(current_date))' : 'current_date';
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
      for (const places of placesOf(operator.takes, field.type)) {
        for (const andNulls of [false, true]) {
          const written = template(field, operator.word, places, andNulls);
          const found = written === undefined ? undefined : capturedBy(written, parsed.tree);
          const operands = found && readOperands(found, operator.takes, field, text, names);
          const form: Condition | undefined = operands && {
            id: clause.id,
            kind: 'condition',
            off: clause.off,
            field: field.id,
            operator: operator.word,
            operands,
            andNulls,
          };
          // The same shape may mean something else for operands of another type.
          const again = form && writeCondition(form, names);
          if (form && again !== undefined && capturedBy(again, parsed.tree)) return form;
        }
      }
    }
  }
  return undefined;
}

function capturedBy(written: string, tree: Tree): Captured | undefined {
  const shape = parseExpression(written);
  return shape.problems.length === 0 ? captured(shape.tree, tree) : undefined;
}

/** Parameters that stand for operands in a template, in every grain they may have; no dataset has parameters of such names. */
function placesOf(takes: OperandShape, { kind }: FieldType): readonly (readonly WrittenOperand[])[] {
  const grains: readonly Grain[] = kind === 'instant' ? ['instant', 'day', 'moment'] : kind === 'datetime' ? ['moment', 'day'] : ['moment'];
  const first = grains.map((grain): WrittenOperand => ({ text: ':_1_', grain }));
  if (takes === 'none') return [[]];
  return takes === 'range' ? first.flatMap((low) => grains.map((grain) => [low, { text: ':_2_', grain }])) : first.map((each) => [each]);
}

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
  const day = family === 'day' ? relativeOf(tree) : undefined;
  if (day) return { kind: 'value', text: writeRelativeDay(day) };
  if (tree.node === 'string') return family === 'text' ? { kind: 'value', text: tree.text } : undefined;
  if (tree.node === 'dated' && tree.type !== 'time') return { kind: 'value', text: tree.text };
  if (tree.node === 'number') return family === 'number' ? { kind: 'value', text: tree.text } : undefined;
  if (tree.node === 'negate' && tree.of.node === 'number') return { kind: 'value', text: `-${tree.of.text}` };
  if (tree.node === 'parameter' || tree.node === 'constant') return undefined;
  if (tree.node === 'name') {
    const other = fieldByName(schema, tree.name, tree.quoted);
    return other && { kind: 'field', id: other.id };
  }
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
