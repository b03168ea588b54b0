import type { ParameterType } from '../parameters';
import { date } from '../fields';
import { readValue, shiftDay, writeValue } from '../values';
import { SWEPT_MOST } from './sweep';

/** What was typed as the values of a sweep, or why it is none. */
export type SweptValues =
  { readonly ok: true; readonly values: readonly (readonly string[])[] } | { readonly ok: false; readonly expected: string };

const STRETCH = /^(\S+)\s*(?:…|\.\.\.?|\s+(?:to|until)\s+)\s*(\S+?)(?:\s+by\s+(\d+(?:\.\d+)?)(?:\s+(days?|weeks?|months?|years?))?)?$/u;
const NUMBER = /^(-?)(\d+)(?:\.(\d+))?$/;

/**
 * Values for a sweep as they are typed: a list (`2021, 2022`), or from one to another by a step (`2021 … 2025 by 2`,
 * `2025-04-01 … 2025-09-01 by 1 month`).
 */
export function sweptValues(typed: string, type: ParameterType): SweptValues {
  const text = typed.trim();
  const stretch = text.startsWith('"') ? null : STRETCH.exec(text);
  const [, from = '', until = '', by = '1', unit] = stretch ?? [];
  const isDay = type === 'date' || type === 'date-time';
  const items = !stretch ? list(text) : isDay ? days(from, until, Number(by), unit ?? 'day') : numbers(from, until, by);
  if (items === undefined) return { ok: false, expected: isDay ? '2025-04-01 … 2025-09-01 by 1 month' : '2021 … 2025 by 1' };
  if (items.length === 0) return { ok: false, expected: 'at least one value' };
  if (items.length > SWEPT_MOST) return { ok: false, expected: `at most ${SWEPT_MOST} values` };
  return { ok: true, values: items.map((each) => [each]) };
}

/** Items with commas between them; one with a comma, or a quote, in it stands in double quotes (RFC 4180). */
const list = (text: string) =>
  [...text.matchAll(/\s*(?:"((?:[^"]|"")*)"\s*|([^,;\n]*))(?:[,;\n]|$)/g)]
    .map(([, quoted, plain = '']) => quoted?.replaceAll('""', '"') ?? plain.trim())
    .filter((each) => each !== '');

/** Values as they would be typed. */
export const typedValues = (values: readonly string[]): string =>
  values
    .filter((each) => each !== '')
    .map((each) => (MISREAD.test(each) ? `"${each.replaceAll('"', '""')}"` : each))
    .join(', ');

const MISREAD = /[",;\n…]|^\s|\s$|\.\.|\s(?:to|until)\s/;

function numbers(from: string, until: string, by: string): readonly string[] | undefined {
  const scale = Math.max(...[from, until, by].map((each) => NUMBER.exec(each)?.[3]?.length ?? 0));
  const [low, high, step] = [from, until, by].map((each) => scaled(each, scale));
  if (low === undefined || high === undefined || step === undefined || step <= 0n || high < low) return undefined;
  const found: string[] = [];
  for (let value = low; value <= high && found.length <= SWEPT_MOST; value += step) found.push(unscaled(value, scale));
  return found;
}

function scaled(text: string, scale: number): bigint | undefined {
  const [, sign, whole = '', fraction = ''] = NUMBER.exec(text) ?? [];
  if (whole === '') return undefined;
  const value = BigInt(whole + fraction.padEnd(scale, '0'));
  return sign === '-' ? -value : value;
}

function unscaled(value: bigint, scale: number): string {
  const digits = (value < 0n ? -value : value).toString().padStart(scale + 1, '0');
  const text = scale === 0 ? digits : `${digits.slice(0, -scale)}.${digits.slice(-scale)}`;
  return value < 0n ? `-${text}` : text;
}

function days(from: string, until: string, by: number, unit: string): readonly string[] | undefined {
  const [first, last] = [dayOf(from), dayOf(until)];
  if (first === undefined || last === undefined || by < 1 || !Number.isInteger(by)) return undefined;
  const months = unit.startsWith('month') || unit.startsWith('year');
  const times = by * (unit.startsWith('year') ? 12 : unit.startsWith('week') ? 7 : 1);
  const found: string[] = [];
  for (let count = 0; found.length <= SWEPT_MOST; count++) {
    const day = shiftDay(first, BigInt(count * times), months ? 'month' : 'day');
    if (day === undefined || day > last) break;
    found.push(writeValue(date, day));
  }
  return found;
}

function dayOf(text: string): number | undefined {
  const read = readValue(date, text);
  return read.ok && typeof read.value === 'number' ? read.value : undefined;
}
