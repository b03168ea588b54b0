import type { FieldType } from '@cendra/core';
import { date, datetime, decimal, float, instant, json, MAX_DIGITS, openDecimal, text, time, whole, yesno } from '@cendra/core';

/**
 * The field type of a PostgreSQL column, from the name `format_type` gives its base type. Types that
 * Cendra has no exact counterpart for (intervals, arrays, ranges, binary, network addresses, …) are
 * text: the database's own text of the value.
 */
export function postgresqlType(sourceType: string): FieldType {
  if (sourceType.endsWith('[]')) return text;
  if (/^(smallint|integer|bigint)$/.test(sourceType)) return whole;
  if (/^(real|double precision)$/.test(sourceType)) return float;
  if (sourceType.startsWith('numeric')) return numericType(sourceType);
  if (sourceType === 'boolean') return yesno;
  if (sourceType === 'date') return date;
  if (/^time(\(\d\))? without/.test(sourceType)) return time;
  if (/^timestamp(\(\d\))? without/.test(sourceType)) return datetime;
  if (/^timestamp(\(\d\))? with /.test(sourceType)) return instant;
  if (sourceType === 'json' || sourceType === 'jsonb') return json;
  return text;
}

function numericType(sourceType: string): FieldType {
  const match = /^numeric\((\d+),(-?\d+)\)$/.exec(sourceType);
  const precision = Number(match?.[1]);
  const scale = Number(match?.[2]);
  return match && precision <= MAX_DIGITS && scale >= 0 && scale <= precision ? decimal(precision, scale) : openDecimal;
}
