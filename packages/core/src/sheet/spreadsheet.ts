import { readDatePattern, readNumberPattern } from '../expressions';
import type { DatePart, NumberPattern } from '../expressions';
import type { Field } from '../fields';
import { isDay, isNumber } from '../fields';
import type { Format } from './entry';
import { formatProblem, usualFormat, withCurrency } from './format';

/**
 * The number format of a spreadsheet cell (ECMA-376, part 1, 18.8.31) that shows what the field's pattern shows.
 * Undefined where spreadsheets have none, as for quarters; the cell then has its program's own.
 */
export function spreadsheetFormat(field: Pick<Field, 'type' | 'role'>, format: Format | undefined): string | undefined {
  const chosen = format && !formatProblem(field.type, format) ? format : usualFormat(field);
  if (!chosen) return undefined;
  if (isNumber(field.type)) {
    const pattern = readNumberPattern(withCurrency(chosen));
    return typeof pattern === 'string' ? undefined : numberFormat(pattern);
  }
  return isDay(field.type) || field.type.kind === 'time' ? dateFormat(chosen.pattern) : undefined;
}

const quoted = (text: string) => (text === '' ? '' : `"${text.replaceAll('"', '""')}"`);
/** A percent sign has to stand outside quotes to mean one. */
const affix = (text: string) => text.split('%').map(quoted).join('%');

function numberFormat(pattern: NumberPattern): string {
  const { leastWhole, leastDecimals, mostDecimals, group } = pattern;
  const whole = '0'.repeat(leastWhole).padStart(group > 0 ? group + 1 : 1, '#');
  const grouped = group > 0 ? `${whole.slice(0, -group)},${whole.slice(-group)}` : whole;
  const decimals = mostDecimals > 0 ? `.${'0'.repeat(leastDecimals)}${'#'.repeat(mostDecimals - leastDecimals)}` : '';
  const half = ({ before, after }: NumberPattern['positive']) => `${affix(before)}${grouped}${decimals}${affix(after)}`;
  const plainNegative = pattern.negative.before === `-${pattern.positive.before}` && pattern.negative.after === pattern.positive.after;
  return plainNegative ? half(pattern.positive) : `${half(pattern.positive)};${half(pattern.negative)}`;
}

const PARTS: Readonly<Partial<Record<DatePart, (style: number) => string>>> = {
  year: (style) => (style === 2 ? 'yy' : 'yyyy'),
  month: (style) => 'm'.repeat(style),
  day: (style) => 'd'.repeat(style),
  weekday: (style) => (style === 4 ? 'dddd' : 'ddd'),
  hour: (style) => 'h'.repeat(style),
  hour12: (style) => 'h'.repeat(style),
  halfday: () => 'AM/PM',
  minute: (style) => 'm'.repeat(style),
  second: (style) => 's'.repeat(style),
};

function dateFormat(source: string): string | undefined {
  const pieces = readDatePattern(source);
  if (typeof pieces === 'string') return undefined;
  const written = pieces.map((piece) =>
    piece.kind === 'text' ? (piece.text === ':' || piece.text === '-' ? piece.text : quoted(piece.text)) : PARTS[piece.part]?.(piece.style),
  );
  return written.includes(undefined) ? undefined : written.join('');
}
