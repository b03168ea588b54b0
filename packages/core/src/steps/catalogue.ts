import type { FieldType } from '../fields';

/** What a catalogue is asked about. Other things a source has (texts, files) get an address of their own. */
export interface TableAddress {
  readonly kind: 'table';
  readonly source: string;
  readonly schema: string;
  readonly table: string;
}

export interface RoutineAddress {
  readonly kind: 'routine';
  readonly source: string;
  /** Schema, name and types of what it takes, in the source's words. */
  readonly signature: string;
}

/** What a routine takes. */
export interface RoutineArgument {
  /** Empty where it has none and is known by its place. */
  readonly name: string;
  readonly sourceType: string;
  /** Of one value. */
  readonly type: FieldType;
  /** It takes a list of them. */
  readonly several: boolean;
  /** What it is without a value, in the source's words; null where it needs one. */
  readonly startsAs: string | null;
}

/** What a routine gives back by an argument. */
export interface RoutineOut {
  /** Empty where it has none and is known by its place. */
  readonly name: string;
  readonly sourceType: string;
  readonly type: FieldType;
  /** It names a cursor, whose rows are read. */
  readonly cursor: boolean;
  /** Its place among all arguments, counted from 0. */
  readonly at: number;
  /** It is one of what the routine takes as well. */
  readonly taken: boolean;
}

/** A function or procedure as its source has it. */
export interface RoutineEntry {
  readonly schema: string;
  readonly name: string;
  readonly signature: string;
  readonly kind: 'function' | 'procedure';
  readonly arguments: readonly RoutineArgument[];
  readonly outs: readonly RoutineOut[];
  /** It gives the name of a cursor, or several, and no rows of its own. */
  readonly cursors: boolean;
  /** What it gives, in the source's words. */
  readonly gives: string;
  /** Other when its text is another. */
  readonly body: string;
}

/** A column as its source describes it. `type` is the connector's mapping of the source's own type. */
export interface CatalogueColumn {
  readonly name: string;
  readonly sourceType: string;
  readonly type: FieldType;
  readonly nullable: boolean;
  /** Its collation calls different texts equal. */
  readonly looseText: boolean;
}

/** Columns whose values together occur once: a primary key, or a unique index over whole columns. */
export interface CatalogueKey {
  readonly columns: readonly string[];
  readonly primary: boolean;
}

/** A declared foreign key, from this table (`out`) or to it (`in`). */
export interface CatalogueRelation {
  readonly direction: 'out' | 'in';
  readonly columns: readonly string[];
  readonly otherSchema: string;
  readonly otherTable: string;
  readonly otherColumns: readonly string[];
}

export interface CatalogueEntry {
  readonly columns: readonly CatalogueColumn[];
  readonly keys: readonly CatalogueKey[];
  readonly relations: readonly CatalogueRelation[];
}

/** What is known of sources without asking them: an entry, or 'gone'; undefined when not known. */
export interface Catalogue {
  (address: TableAddress): CatalogueEntry | 'gone' | undefined;
  (address: RoutineAddress): RoutineEntry | 'gone' | undefined;
}

export const NOTHING_KNOWN: Catalogue = () => undefined;

/** What a source said of a table when it was asked. */
export interface KnownTable extends CatalogueEntry {
  readonly source: string;
  readonly schema: string;
  readonly table: string;
  readonly state: 'known' | 'gone' | 'unreachable';
}

/** What a source said of a routine when it was asked; without an entry it has none. */
export interface KnownRoutine {
  readonly source: string;
  readonly signature: string;
  readonly state: 'known' | 'gone' | 'unreachable';
  readonly entry?: RoutineEntry;
}

/** Known tables and routines as checks ask for them. */
export function catalogueOf(known: readonly KnownTable[], routines: readonly KnownRoutine[] = []): Catalogue {
  const table = ({ source, schema, table: name }: TableAddress) => {
    const found = known.find((each) => each.source === source && each.schema === schema && each.table === name);
    return found && found.state !== 'unreachable' ? (found.state === 'gone' ? 'gone' : found) : undefined;
  };
  const routine = ({ source, signature }: RoutineAddress) => {
    const found = routines.find((each) => each.source === source && each.signature === signature);
    return found && found.state !== 'unreachable' ? (found.entry ?? 'gone') : undefined;
  };
  return ((address: TableAddress | RoutineAddress) => (address.kind === 'table' ? table(address) : routine(address))) as Catalogue;
}

/**
 * The sets of columns that tell any two rows apart. A unique index over a column that may be null does not:
 * rows without a value are not held against one another (ISO/IEC 9075-2, unique predicate).
 */
export function tellingKeys({ columns, keys }: Pick<CatalogueEntry, 'columns' | 'keys'>): readonly (readonly string[])[] {
  const filled = new Set(columns.flatMap(({ name, nullable }) => (nullable ? [] : [name])));
  return keys.flatMap((key) => (key.primary || key.columns.every((each) => filled.has(each)) ? [key.columns] : []));
}
