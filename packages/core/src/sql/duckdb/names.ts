import type { FieldType } from '../../fields';

/** DuckDB's names of the field types; a number without a fixed scale is kept as its text. */
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
