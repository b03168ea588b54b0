import type { Expression } from '../expressions';
import { digitsOf } from '../expressions';
import type { FieldType } from '../fields';
import type { Capability, Dialect } from './dialect';

/**
 * What DuckDB can compute with our meaning. Not claimed: it divides decimals in floating point and
 * refuses products over 38 digits, so these do not run there until they are generated differently.
 */
const CLAIMED: readonly Capability[] = [
  'comparison and logic',
  'text match by code point',
  'sums within 38 digits',
  'products within 38 digits',
  'floating arithmetic',
];

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;
const literal = (value: string) => `'${value.replaceAll("'", "''")}'`;

export function duckdbTypeName(type: FieldType): string {
  switch (type.kind) {
    case 'decimal':
      return type.open ? 'varchar' : `decimal(${type.precision},${type.scale})`;
    case 'text':
    case 'json':
      return 'varchar';
    case 'whole':
      return 'bigint';
    case 'float':
      return 'double';
    case 'yesno':
      return 'boolean';
    case 'datetime':
      return 'timestamp';
    case 'instant':
      return 'timestamptz';
    default:
      return type.kind;
  }
}

/** DuckDB's way of writing each piece, for the combine engine. A landed handle is a view of the run. */
export const duckdb: Dialect = {
  name: 'duckdb',
  capabilities: new Set(CLAIMED),
  identifier: quote,
  nameBytes: 200,
  typeName: duckdbTypeName,
  value: (index, type) => `cast($${index} as ${duckdbTypeName(type)})`,
  list: (index, type) => `select unnest(cast($${index} as ${duckdbTypeName(type)}[]))`,
  readColumn: (_column, sql) => sql,
  landed: quote,
  binary: (sql) => sql,
  arithmetic,
  negate: (node, of) => `(- cast(${of} as ${duckdbTypeName(node.type)}))`,
  widen: (node, of) =>
    node.of.type.kind === 'instant' && node.type.kind === 'datetime'
      ? `timezone('UTC', ${of})`
      : `cast(${of} as ${duckdbTypeName(node.type)})`,
  like: (of, pattern, escape) => (escape === undefined ? `(${of} like ${pattern})` : `(${of} like ${pattern} escape ${literal(escape)})`),
  textMatch: (how, of, part) => `${{ contains: 'contains', begins: 'starts_with', ends: 'suffix' }[how]}(${of}, ${part})`,
  dayAfter: (of) => `(${of} + 1)`,
};

function arithmetic(node: Expression & { op: 'arithmetic' }, left: string, right: string): string {
  if (node.type.kind !== 'decimal')
    return `nullif(nullif(nullif(${left} ${node.operator} ${right}, 'inf'::double), '-inf'::double), 'nan'::double)`;
  const type = duckdbTypeName(node.type);
  if (node.operator === '*')
    return `cast(${exact(node.left.type, left, node.right.type)} * ${exact(node.right.type, right, node.left.type)} as ${type})`;
  return `cast(cast(${left} as ${type}) ${node.operator} cast(${right} as ${type}) as ${type})`;
}

/** DuckDB multiplies in 18 digits while both operands have no more; one wider operand makes it use 38. */
function exact(type: FieldType, sql: string, other: FieldType): string {
  const [own, others] = [digitsOf(type), digitsOf(other)];
  const wide = own && others && own.precision <= 18 && others.precision <= 18 && own.precision + others.precision > 18;
  if (type.kind === 'whole') return `cast(${sql} as decimal(19,0))`;
  return wide ? `cast(${sql} as decimal(19,${own.scale}))` : sql;
}
