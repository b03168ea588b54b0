import type { Expression } from '../../expressions';
import { UTC } from '../../values';
import type { Capability, Dialect } from '../dialect';
import { arithmeticSql } from './arithmetic';
import { callSql } from './calls';
import { castSql } from './casts';
import { duckdbTypeName } from './names';
import { finite } from './once';
import { openKey, openValue } from './open-numbers';
import { windowSql } from './windows';

/**
 * What DuckDB can compute with our meaning. Its decimals end at 38 digits and raise beyond, so nothing is
 * claimed whose intermediate values can be longer.
 */
const CLAIMED: readonly Capability[] = [
  'comparison and logic',
  'text match by code point',
  'sums within 38 digits',
  'sums that may pass 38 digits',
  'products within 38 digits',
  'quotients within 37 digits',
  'floating arithmetic',
  'texts',
  'numbers of one operand',
  'remainders within 38 digits',
  'calendar',
  'conversions',
  'values over other rows',
  'sums over rows within 28 digits',
  'full joins',
  'full joins on ranges',
  'totals by levels',
];

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;
const literal = (value: string) => `'${value.replaceAll("'", "''")}'`;

/** DuckDB's way of writing each piece, for the combine engine. A landed handle is a view of the run. */
export const duckdb: Dialect = {
  name: 'duckdb',
  capabilities: new Set(CLAIMED),
  identifier: quote,
  nameBytes: 200,
  fence: '',
  readAnew: 'not materialized ',
  typeName: duckdbTypeName,
  value: (index, type) => `cast($${index} as ${duckdbTypeName(type)})`,
  constant: (index, type) => `cast($${index} as ${duckdbTypeName(type)})`,
  textValue: () => {
    throw new RangeError('a text runs in its source only');
  },
  list: (index, type) => `select unnest(cast($${index} as ${duckdbTypeName(type)}[]))`,
  readColumn: (_column, sql) => sql,
  landed: quote,
  binary: (sql) => sql,
  arithmetic: arithmeticSql,
  cast: castSql,
  call: callSql,
  window: windowSql,
  sum: (type, _of, sql, among) =>
    type.kind === 'float' ? finite(`sum(${sql})${among}`) : `cast(sum(${sql})${among} as ${duckdbTypeName(type)})`,
  openNumbers: {
    key: openKey,
    value: openValue,
    extreme: (which, sql, among) => `arg_${which === 'least' ? 'min' : 'max'}(${sql}, ${openKey(sql)})${among}`,
  },
  negate: ({ type }, of) => (type.kind === 'float' ? finite(`(- ${of})`) : `(- cast(${of} as ${duckdbTypeName(type)}))`),
  widen,
  like: (of, pattern, escape) => (escape === undefined ? `(${of} like ${pattern})` : `(${of} like ${pattern} escape ${literal(escape)})`),
  textMatch: (how, of, part) => `${{ contains: 'contains', begins: 'starts_with', ends: 'suffix' }[how]}(${of}, ${part})`,
  dayAfter: (of) => `(${of} + 1)`,
};

function widen({ of: { type: from }, type: to }: Expression & { op: 'widen' }, of: string): string {
  if (from.kind === 'instant' && to.kind === 'datetime') return `timezone('${from.zone ?? UTC}', ${of})`;
  // Toward fewer whole digits a number may not fit, which is null and no error.
  return `${to.kind === 'decimal' ? 'try_cast' : 'cast'}(${of} as ${duckdbTypeName(to)})`;
}

export { duckdbTypeName, openKey };
