import type { Expression, OrderBy } from '../expressions';
import { compare, wholeLiteral } from '../expressions';
import type { FieldType } from '../fields';
import { whole } from '../fields';
import type { Value } from '../values';
import { readValue } from '../values';
import type { Level } from './layout';

type Written = Pick<Level, 'listed' | 'by' | 'stretch'>;

/** Whether groups stand in an order that is written: a figure orders them before it, and stretches of days have one of their own. */
export const isListed = ({ listed, by, stretch }: Written): boolean => listed !== undefined && by === undefined && stretch === undefined;

/**
 * Groups whose value is listed come first, in the order of the list; the others stand behind them. Nothing where no order is
 * written, or none of its values is one of the type.
 */
export function listedFirst(of: Expression, level: Written): readonly OrderBy[] {
  if (!isListed(level)) return [];
  const places = (level.listed ?? []).flatMap((written, at) => {
    const value = listedValue(of.type, written);
    return value === undefined ? [] : [{ when: compare('=', of, { op: 'literal', type: of.type, value }), then: wholeLiteral(at) }];
  });
  if (places.length === 0) return [];
  const behind = wholeLiteral(level.listed?.length ?? 0);
  return [{ of: { op: 'case', type: whole, branches: places, otherwise: behind }, descending: false, nullsFirst: false }];
}

/** A listed text as a value of a type; undefined where it is none. */
export function listedValue(type: FieldType, written: string): Value | undefined {
  const read = readValue(type, written);
  return read.ok && read.value !== null ? read.value : undefined;
}
