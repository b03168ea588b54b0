import type { Expression } from '../expressions';
import { checkExpression, evaluate } from '../expressions';
import type { Field, FieldType } from '../fields';
import { isDay, isNumber } from '../fields';
import type { Problem } from '../problem';
import type { Calendar, Value } from '../values';
import { readValue, UTC } from '../values';
import type { Format } from './entry';

/** Between groups of digits on screens and paper. */
const SIGNS = '.\u202f';

/** A format with the calendar its quarters are told by, where years begin elsewhere than in January. */
export interface ReadFormat extends Format {
  readonly calendar?: Calendar;
}

/** The format as the dataset's calendar has it. */
export const formatIn = (calendar: Calendar, format: Format): ReadFormat =>
  format.pattern.includes('Q') && calendar.firstMonthOfYear !== 1 ? { ...format, calendar } : format;

/** Patterns offered for a type, the plainest first; they are chosen by how a sample looks. */
export function offeredFormats(type: FieldType): readonly Format[] {
  if (type.kind === 'whole') return ['#,##0', '0'].map((pattern) => ({ pattern }));
  if (isNumber(type))
    return [
      ...['#,##0.##', '#,##0', '#,##0.0', '#,##0.00', '0.00', '#,##0 %', '#,##0.0 %'].map((pattern) => ({ pattern })),
      { pattern: '#,##0.00 ¤', currency: 'EUR' },
    ];
  if (type.kind === 'date')
    return ['yyyy-MM-dd', 'd MMM yyyy', 'd MMMM yyyy', 'EEE d MMM', 'MMMM yyyy', 'QQQ yyyy', 'yyyy'].map((pattern) => ({ pattern }));
  if (isDay(type)) return ['yyyy-MM-dd HH:mm', 'd MMM yyyy HH:mm', 'd MMM yyyy', 'HH:mm:ss'].map((pattern) => ({ pattern }));
  return type.kind === 'time' ? ['HH:mm', 'HH:mm:ss', 'h:mm a'].map((pattern) => ({ pattern })) : [];
}

/** How a field is written unless its sheet says otherwise. */
export function plainFormat(type: FieldType): Format | undefined {
  if (type.kind === 'whole') return { pattern: '#,##0' };
  if (type.kind === 'decimal')
    return { pattern: type.open ? '#,##0.############' : `#,##0${type.scale > 0 ? `.${'0'.repeat(Math.min(type.scale, 20))}` : ''}` };
  if (type.kind === 'float') return { pattern: '#,##0.######' };
  if (type.kind === 'date') return { pattern: 'd MMM yyyy' };
  if (type.kind === 'datetime') return { pattern: 'd MMM yyyy HH:mm' };
  if (type.kind === 'instant') return { pattern: `d MMM yyyy HH:mm '${type.zone ?? UTC}'` };
  return undefined;
}

/** Codes, years and keys are names written in digits: no gaps between their thousands. */
export function usualFormat({ type, role }: Pick<Field, 'type' | 'role'>): Format | undefined {
  return type.kind === 'whole' && (role === 'key' || role === 'code') ? { pattern: '0' } : plainFormat(type);
}

/** What keeps a format from being used for values of the type; undefined when it fits. */
export function formatProblem(type: FieldType, format: ReadFormat): Problem | undefined {
  const key = JSON.stringify([type, format]);
  if (!judged.has(key)) {
    if (judged.size >= MOST_JUDGED) judged.clear();
    judged.set(key, judge(type, format));
  }
  return judged.get(key);
}

/** A trail is checked at each edit, with hundreds of fields that are written in a few ways. */
const judged = new Map<string, Problem | undefined>();
const MOST_JUDGED = 1_000;

function judge(type: FieldType, format: ReadFormat): Problem | undefined {
  if (!isNumber(type) && !isDay(type) && type.kind !== 'time')
    return {
      code: 'format-unsuited',
      severity: 'warning',
      message: `A ${type.kind === 'yesno' ? 'yes/no' : type.kind} field takes no pattern.`,
      place: {},
    };
  const checked = writing(type, format);
  const [first] = checked.problems;
  return (
    first && {
      code: 'format-unsuited',
      severity: 'warning',
      message: first.message,
      ...(first.expected === undefined ? {} : { expected: first.expected }),
      place: {},
    }
  );
}

/** `¤` outside quotes is the currency, as a text of its own. */
export function withCurrency({ pattern, currency = '¤' }: Format): string {
  return pattern
    .split(/('(?:[^']|'')*')/)
    .map((part) => (part.startsWith("'") ? part : part.replaceAll('¤', `'${currency.replaceAll("'", "''")}'`)))
    .join('');
}

const quoted = (text: string) => `'${text.replaceAll("'", "''")}'`;

/** Writing a value is an expression like any other, so a pattern means here what it means in a calculated field. */
function writing(type: FieldType, format: ReadFormat) {
  const field: Field = { id: 'x', name: 'x', type, role: 'attribute', origin: { step: '', column: '' }, forUseOnly: false };
  const number = type.kind === 'float' ? 'cast(x as decimal(38,12))' : 'x';
  const text = isNumber(type)
    ? `format_number(${number}, ${quoted(withCurrency(format))}, ${quoted(SIGNS)})`
    : `format_date(x, ${quoted(format.pattern)})`;
  const { calendar } = format;
  return checkExpression(text, { schema: { fields: [field] }, parameters: [], ...(calendar ? { calendar } : {}) });
}

/** Gives a value in wire form as people read it; what the format cannot write stays as it is. */
export type Writer = (wire: string) => string;

/** How values of a field are written, by its format or the usual one. A format that does not fit is as good as none. */
export function writerOf(field: Pick<Field, 'type' | 'role'>, format: ReadFormat | undefined): Writer {
  if (field.type.kind === 'yesno') return (wire) => ({ true: 'yes', false: 'no' })[wire] ?? wire;
  const chosen = format && !formatProblem(field.type, format) ? format : usualFormat(field);
  const expression = chosen && writing(field.type, chosen).expression;
  return expression ? remembered((wire) => written(expression, field.type, wire)) : (wire) => wire;
}

/** Values repeat down a column. */
function remembered(write: Writer): Writer {
  const known = new Map<string, string>();
  return (wire) => {
    const found = known.get(wire);
    if (found !== undefined) return found;
    const text = write(wire);
    if (known.size >= MOST_REMEMBERED) known.clear();
    known.set(wire, text);
    return text;
  };
}

const MOST_REMEMBERED = 2_000;

function written(expression: Expression, type: FieldType, wire: string): string {
  const read = readValue(type, wire);
  if (!read.ok) return wire;
  const value: Value = evaluate(expression, {
    now: 0n,
    window: () => null,
    field: () => read.value,
    parameter: () => null,
    list: () => [],
    known: new Map(),
  });
  return typeof value === 'string' ? value.replace(/^-/, '−') : wire;
}
