import { familyOf } from '../criteria';
import type { FieldType } from '../fields';
import type { Choices, Narrowing, Parameter } from '../parameters';
import { choicesTable, parameterTypeFor } from '../parameters';
import type { ParameterPlace, TextToken } from '../statements';
import { isMark, isWord, nameOf, placesIn, saying, tablesIn, tokensOf } from '../statements';
import type { CatalogueEntry } from '../steps';

/** A table a text names, or one a declared key leads to from there. */
export interface TableAround extends CatalogueEntry {
  readonly schema: string;
  readonly name: string;
}

/** A parameter of a text and the column it has to equal. */
export interface AskedOf {
  readonly parameter: string;
  readonly table: TableAround;
  readonly column: string;
}

/** For the parameters of a text that have to equal a column, alone or as one of several, that column; in the order of the text. */
export function columnsAskedOf(text: string, tables: readonly TableAround[]): readonly AskedOf[] {
  const all = tokensOf(text);
  const tokens = saying(all);
  const named = tablesIn(all).flatMap((each) => {
    const table = tables.find(({ schema, name }) => name === each.table && (each.schema === undefined || each.schema === schema));
    return table ? [{ alias: each.alias, table }] : [];
  });
  const found: AskedOf[] = [];
  for (const place of placesIn(all)) {
    if (found.some((each) => each.parameter === place.name)) continue;
    const names = equalTo(tokens, place);
    const [column, alias] = names ?? [];
    if (column === undefined) continue;
    const having = named.filter(
      (each) => (alias === undefined || each.alias === alias) && each.table.columns.some(({ name }) => name === column),
    );
    const [table, other] = [...new Set(having.map((each) => each.table))];
    if (table && !other) found.push({ parameter: place.name, table, column });
  }
  return found;
}

/** The column something has to equal at a place, its name first and what stands in front of it behind. */
function equalTo(tokens: readonly TextToken[], place: ParameterPlace): readonly string[] | undefined {
  const at = tokens.findIndex((each) => each.from === place.written.from);
  const end = endOfEqual(tokens, at, place.stands);
  const column = nameOf(tokens[end]);
  if (place.negated || column === undefined || isWord(tokens[end], 'end', 'null')) return undefined;
  const dotted = isMark(tokens[end - 1], '.');
  const alias = dotted ? nameOf(tokens[end - 2]) : undefined;
  const before = tokens[dotted ? end - 3 : end - 1];
  // Part of a longer expression, it is not the column that is asked.
  if (before?.kind === 'operator' || before?.kind === 'colons' || isMark(before, '.')) return undefined;
  return alias === undefined ? [column] : [column, alias];
}

/** Where what stands before `=`, `in` or `= any` ends; -1 where none of them is before the place. */
function endOfEqual(tokens: readonly TextToken[], at: number, stands: ParameterPlace['stands']): number {
  const equals = (token: TextToken | undefined) => token?.kind === 'operator' && token.text === '=';
  if (stands !== 'several') return equals(tokens[at - 1]) ? at - 2 : -1;
  // Of `= any (:name)` the parameter alone is written anew, of `in (:name)` all of it.
  if (isMark(tokens[at - 1], '(')) return equals(tokens[at - 3]) ? at - 4 : -1;
  return at - 1;
}

/** The tables declared keys lead to from the columns that are asked of. */
export const keysAskedOf = (asked: readonly AskedOf[]): readonly { readonly schema: string; readonly name: string }[] =>
  asked.flatMap((each) => keyFrom(each) ?? []).map(({ schema, name }) => ({ schema, name }));

function keyFrom({ table, column }: AskedOf) {
  const key = table.relations.find((each) => each.direction === 'out' && each.columns.length === 1 && each.columns[0] === column);
  const to = key?.otherColumns[0];
  return key && to !== undefined ? { schema: key.otherSchema, name: key.otherTable, column: to } : undefined;
}

/**
 * What is offered for a parameter of a text: the table a declared key leads to, by its name where it has one, else the column
 * it has to equal; narrowed by the parameters before it that are asked of the same table. Undefined where it equals none, or one of another type.
 */
export function choicesAskedOf(
  asked: readonly AskedOf[],
  parameter: Pick<Parameter, 'name' | 'type'>,
  source: string,
  tables: readonly TableAround[],
  idOf: (name: string) => string | undefined,
): Choices | undefined {
  const at = asked.findIndex((each) => each.parameter === parameter.name);
  const own = asked[at];
  if (!own) return undefined;
  const key = keyFrom(own);
  const other = key && tables.find((each) => each.schema === key.schema && each.name === key.name);
  const [table, field] = other ? [other, key.column] : [own.table, own.column];
  const type = table.columns.find((each) => each.name === field)?.type;
  if (!type || !isOffered(type) || parameterTypeFor(type) !== parameter.type) return undefined;
  const label = other ? labelOf(other, field) : null;
  const narrowedBy = asked.slice(0, at).flatMap((each): readonly Narrowing[] => {
    const id = idOf(each.parameter);
    return id !== undefined && each.table === table && each.column !== field ? [{ parameter: id, field: each.column }] : [];
  });
  return { from: 'table', table: choicesTable(source, table), field, label, sorted: label === null ? 'by value' : 'by label', narrowedBy };
}

/** Names, codes and numbers are chosen among; amounts and days are not. */
const isOffered = (type: FieldType) => familyOf(type) === 'text' || type.kind === 'whole';

const labelOf = ({ columns }: TableAround, field: string): string | null =>
  columns.find(({ name, type }) => name !== field && familyOf(type) === 'text' && /^(?:name|title|label)$|_name$/.test(name))?.name ?? null;
