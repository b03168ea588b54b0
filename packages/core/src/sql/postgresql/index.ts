import type { Expression } from '../../expressions';
import { UTC } from '../../values';
import type { FieldType } from '../../fields';
import type { Dialect, Reach } from '../dialect';
import type { TableColumn } from '../relation';
import { CAPABILITIES } from '../dialect';
import { arithmeticSql } from './arithmetic';
import { callSql } from './calls';
import { castSql, widenedNumber } from './casts';
import { TYPE_NAMES } from './names';
import { finite } from './once';
import { sumSql, windowSql } from './windows';

/** How bound values stand in a statement: as settings of the transaction, or as places `$n`, each to be written out (`runnableText`). */
export type ValuePlace = 'numbered' | 'settings';

export const SETTING_PREFIX = 'cendra.p';

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;
const literal = (value: string) => `'${value.replaceAll("'", "''")}'`;

/** PostgreSQL's way of writing each piece. `place` decides how values are read. */
export function postgresql(place: ValuePlace): Dialect {
  const read = (index: number) => (place === 'numbered' ? `$${index}` : `current_setting('${SETTING_PREFIX}${index}')`);
  return {
    name: 'postgresql',
    // It joins fully by what can be merged or hashed only.
    capabilities: new Set(CAPABILITIES.filter((each) => each !== 'full joins on ranges')),
    identifier: quote,
    nameBytes: 63,
    readAnew: 'not materialized ',
    fence: ' offset 0',
    typeName: (type) => TYPE_NAMES[type.kind],
    value: (index, type) => `${read(index)}::${TYPE_NAMES[type.kind]}`,
    constant: (index, type) =>
      place === 'numbered' ? `$${index}::${TYPE_NAMES[type.kind]}` : `(select ${read(index)}::${TYPE_NAMES[type.kind]})`,
    textValue: (index, sourceType) => {
      if (index === undefined) return `null::${sourceType}`;
      // A name that stands for a list is known as one by what it stands in, `= any (:name)`.
      return place === 'numbered' && sourceType.endsWith('[]') ? `$${index}` : `(${read(index)})::${sourceType}`;
    },
    list: (index, type) => (place === 'numbered' ? `$${index}` : `select unnest(${read(index)}::${TYPE_NAMES[type.kind]}[])`),
    readColumn: (column, sql) => readAs(column, sql),
    reach,
    landed: () => {
      throw new RangeError('nothing is landed in a source');
    },
    binary: (sql) => `${sql} collate "C"`,
    arithmetic: arithmeticSql,
    negate: ({ type, of: { type: from } }, of) =>
      type.kind === 'float' ? finite(`(- ${of})`) : `(- ${from.kind === 'whole' ? `${of}::numeric` : of})`,
    widen,
    cast: castSql,
    call: callSql,
    window: windowSql,
    sum: sumSql,
    like: (of, pattern, escape) => `(${of} like ${pattern} escape ${literal(escape ?? '')})`,
    textMatch: (how, of, part) =>
      how === 'contains'
        ? `(strpos(${of}, ${part}) > 0)`
        : how === 'begins'
          ? `starts_with(${of}, ${part})`
          : `(right(${of}, length(${part})) = ${part})`,
    dayAfter: (of) => `(${of} + 1)`,
  };
}

/** A numeric may be NaN, or without a fixed scale infinite; NaN is greater than all others. Days go beyond the calendar's, and to infinity. */
function reach(type: FieldType): Reach | undefined {
  switch (type.kind) {
    case 'decimal':
      return type.open ? { from: "> '-Infinity'", until: "< 'Infinity'" } : { until: "< 'NaN'" };
    case 'date':
      return { from: ">= '0001-01-01'", until: "<= '9999-12-31'" };
    case 'datetime':
      return { from: ">= '0001-01-01'", until: "<= '9999-12-31 23:59:59.999999'" };
    case 'instant':
      return { from: ">= '0001-01-01 00:00:00+00'", until: "<= '9999-12-31 23:59:59.999999+00'" };
    default:
      return undefined;
  }
}

/** Types whose plain column already has our meaning; everything else is read as its text. */
const PLAIN =
  /^(smallint|integer|bigint|numeric|double precision|boolean|date|text|character varying|time(\(\d\))? without time zone|timestamp(\(\d\))? with(out)? time zone)/;

function readAs({ sourceType, looseText, carried }: TableColumn, sql: string): string {
  // By its text, which names the number that was meant; reading that costs more than all else of a row. Carried away, it is sent as that text anyway.
  if (sourceType === 'real') return carried ? sql : `${sql}::text::double precision`;
  const plain = PLAIN.test(sourceType) && !sourceType.endsWith('[]');
  const read = plain ? sql : `${sql}::text`;
  return looseText ? `${read} collate "C"` : read;
}

function widen({ of: { type: from }, type: to }: Expression & { op: 'widen' }, of: string): string {
  if (from.kind === 'instant' && to.kind === 'datetime') return `timezone('${from.zone ?? UTC}', ${of})`;
  return to.kind === 'decimal' ? widenedNumber(from, to, of) : `${of}::${TYPE_NAMES[to.kind]}`;
}
