import type { FieldType } from '../fields';

/** What a catalogue is asked about. Other things a source has (routines, texts, files) get an address of their own. */
export interface Address {
  readonly kind: 'table';
  readonly source: string;
  readonly schema: string;
  readonly table: string;
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
export type Catalogue = (address: Address) => CatalogueEntry | 'gone' | undefined;

export const NOTHING_KNOWN: Catalogue = () => undefined;

/** What a source said of a table when it was asked. */
export interface KnownTable extends CatalogueEntry {
  readonly source: string;
  readonly schema: string;
  readonly table: string;
  readonly state: 'known' | 'gone' | 'unreachable';
}

/** Known tables as checks ask for them. */
export function catalogueOf(known: readonly KnownTable[]): Catalogue {
  return ({ source, schema, table }) => {
    const found = known.find((each) => each.source === source && each.schema === schema && each.table === table);
    if (!found || found.state === 'unreachable') return undefined;
    return found.state === 'gone' ? 'gone' : found;
  };
}

/**
 * The sets of columns that tell any two rows apart. A unique index over a column that may be null does not:
 * rows without a value are not held against one another (ISO/IEC 9075-2, unique predicate).
 */
export function tellingKeys({ columns, keys }: Pick<CatalogueEntry, 'columns' | 'keys'>): readonly (readonly string[])[] {
  const filled = new Set(columns.flatMap(({ name, nullable }) => (nullable ? [] : [name])));
  return keys.flatMap((key) => (key.primary || key.columns.every((each) => filled.has(each)) ? [key.columns] : []));
}
