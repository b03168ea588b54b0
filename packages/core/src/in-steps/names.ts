import type { Field, FieldId, Schema } from '../fields';
import { fieldById } from '../fields';
import type { SyntaxTree } from '../statements';
import type { Meaning } from './meaning';
import { unsaid } from './unsaid';

/** A column as the text calls it, and the field it is. */
export interface Column {
  readonly name: string;
  readonly field: FieldId;
}

/** Something a select reads from, under the name it has there. */
export interface Read {
  readonly alias: string;
  readonly columns: readonly Column[];
}

/** What the names of a select mean. */
export interface Names {
  readonly reads: readonly Read[];
  /** Columns two sides were joined by with `using`: one of both. */
  readonly merged: readonly Column[];
}

/** The field a column means in a select. */
export const columnIn =
  ({ reads, merged }: Names, schema: Schema): Meaning['column'] =>
  (names, location) => {
    const name = names.at(-1) ?? '';
    const qualifier = names.at(-2);
    const found = qualifier === undefined ? unqualified(name, reads, merged) : under(qualifier, reads).filter((each) => each.name === name);
    const [only, second] = found;
    if (!only) return unsaid(`No column ${names.join('.')} is known here.`, location);
    if (second) return unsaid(`Several columns are called ${name} here.`, location);
    return fieldById(schema, only.field) ?? unsaid(`The column ${name} is gone.`, location);
  };

function unqualified(name: string, reads: readonly Read[], merged: readonly Column[]): readonly Column[] {
  const both = merged.filter((each) => each.name === name);
  return both.length > 0 ? both : reads.flatMap(({ columns }) => columns.filter((each) => each.name === name));
}

const under = (alias: string, reads: readonly Read[]): readonly Column[] => reads.find((each) => each.alias === alias)?.columns ?? [];

/** The columns of `*`, or of `alias.*`, in their order. */
export function columnsOfStar(names: readonly string[], { reads, merged }: Names, location: SyntaxTree | undefined): readonly Column[] {
  const [alias] = names;
  if (alias !== undefined) {
    const read = reads.find((each) => each.alias === alias);
    return read ? read.columns : unsaid(`Nothing is called ${alias} here.`, location);
  }
  const both = new Set(merged.map((each) => each.name));
  return [...merged, ...reads.flatMap(({ columns }) => columns.filter((each) => !both.has(each.name)))];
}

/** The names with each field under another id, as behind a join. */
export function renamedIn({ reads, merged }: Names, idOf: (field: FieldId) => FieldId): Names {
  const moved = (columns: readonly Column[]) => columns.map(({ name, field }) => ({ name, field: idOf(field) }));
  return { reads: reads.map(({ alias, columns }) => ({ alias, columns: moved(columns) })), merged: moved(merged) };
}

/** The fields of columns, in their order. */
export const fieldsOf = (columns: readonly Column[], schema: Schema): readonly Field[] =>
  columns.flatMap(({ field }) => fieldById(schema, field) ?? []);
