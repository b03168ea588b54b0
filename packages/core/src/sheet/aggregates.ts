import type { FieldType, Role } from '../fields';
import { isDay, isNumber, whole, float } from '../fields';
import { arithmeticType, sumType } from '../expressions';

/** What many values of a field can be told by, in the order they are offered. */
export const AGGREGATES = ['sum', 'average', 'least', 'greatest', 'count', 'distinct count'] as const;
export type Aggregate = (typeof AGGREGATES)[number];

/** Over what a measure may be added. */
export const ADDS_UP = ['over everything', 'over everything but dates, then last', 'within one grouping', 'over nothing'] as const;
export type AddsUp = (typeof ADDS_UP)[number];

/**
 * What can be made of a field of this type at all. Only a measure is ever added or averaged: the sum of keys, years
 * or line numbers says nothing.
 */
export function aggregatesOf(type: FieldType, role: Role, addsUp: AddsUp): readonly Aggregate[] {
  const ordered = isNumber(type) || isDay(type) || type.kind === 'time';
  return AGGREGATES.filter((each) => {
    if (each === 'sum') return role === 'measure' && isNumber(type) && addsUp !== 'over nothing';
    if (each === 'average') return role === 'measure' && isNumber(type);
    if (each === 'least' || each === 'greatest') return ordered && role !== 'key';
    return type.kind !== 'json' || each === 'count';
  });
}

/** The type of an aggregate: sums keep their scale in 38 digits, an average is their sum divided by their count. */
export function aggregateType(aggregate: Aggregate, type: FieldType): FieldType {
  switch (aggregate) {
    case 'sum':
      return sumType(type);
    case 'average':
      return arithmeticType('/', sumType(type), whole) ?? float;
    case 'count':
    case 'distinct count':
      return whole;
    default:
      return type;
  }
}
