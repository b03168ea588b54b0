import type { FieldType } from '../fields';
import { date, datetime, instant, readIn, time } from '../fields';
import type { Checking } from './checking';
import type { Expression } from './expression';
import type { NowWord, Tree } from './tree';

const NOW_TYPES: Readonly<Record<NowWord, FieldType>> = {
  current_date: date,
  current_time: time,
  current_timestamp: instant,
  localtime: time,
  localtimestamp: datetime,
};

/** A word for the moment of the run, read where the dataset is. */
export function checkNow({ scope }: Checking, { word }: Tree & { node: 'now' }): Expression {
  const zone = scope.calendar?.zone;
  return { op: 'now', type: readIn(zone, NOW_TYPES[word]), word, ...(zone === undefined ? {} : { zone }) };
}
