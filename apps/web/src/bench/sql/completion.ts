import type { Completion, CompletionContext, CompletionResult } from '@codemirror/autocomplete';
import type { FieldType, Parameter, TableNamed } from '@cendra/core';
import { isWord, saying, tablesIn, tokensOf, typeWord } from '@cendra/core';
import type { CatalogueTableDto, DescribedTableDto } from '../../api';

/** What is known of a source while a text is written for it. */
export interface Known {
  readonly tables: readonly CatalogueTableDto[];
  /** Tables the text names, as far as they are described yet. */
  readonly described: readonly DescribedTableDto[];
  readonly parameters: readonly Parameter[];
}

const NAME = /[\p{L}_][\p{L}\p{N}_$]*/u;
const PLAIN = /^[a-z_][a-z0-9_]*$/;

/** A name as it is written: in double quotes where it could be read as another one. */
export const writtenAs = (name: string) => (PLAIN.test(name) ? name : `"${name.replaceAll('"', '""')}"`);

/** What is offered while a text is written: tables, columns of the tables in it, their aliases, parameters, and joins by declared keys. */
export function textCompletions(context: CompletionContext, known: Known): CompletionResult | null {
  const text = context.state.doc.toString();
  const before = context.matchBefore(/:[\p{L}\p{N}_]*|(?:[\p{L}_][\p{L}\p{N}_$]*|"[^"]+")\.[\p{L}\p{N}_$]*|[\p{L}_][\p{L}\p{N}_$]*/u);
  if (!before && !context.explicit) return null;
  const from = before?.from ?? context.pos;
  const tokens = tokensOf(text);
  const here = tokens.find((each) => each.from < context.pos && each.to >= context.pos);
  if (here?.kind === 'string' || here?.kind === 'comment' || here?.kind === 'open') return null;
  const typed = before?.text ?? '';
  if (typed.startsWith(':'))
    return {
      from,
      options: known.parameters.map(({ name, type }): Completion => ({ label: `:${name}`, detail: `${type}, parameter` })),
      validFor: /^:[\p{L}\p{N}_]*$/u,
    };
  const named = tablesIn(tokens);
  const dot = typed.lastIndexOf('.');
  if (dot >= 0) return qualified(typed.slice(0, dot).replaceAll('"', ''), from + dot + 1, named, known);
  const behind = saying(tokens.filter((each) => each.to <= from)).at(-1);
  if (isWord(behind, 'from', 'join')) return { from, options: tableOptions(known), validFor: NAME };
  if (isWord(behind, 'on')) {
    const proposed = joinsProposed(
      named.filter((each) => each.from < from),
      known,
    );
    if (proposed.length > 0) return { from, options: [...proposed, ...columnOptions(named, known)] };
  }
  const aliases = named.map(({ alias, table }): Completion => ({ label: writtenAs(alias), detail: table, boost: -1 }));
  return { from, options: [...columnOptions(named, known), ...aliases, ...FUNCTIONS, ...WORDS], validFor: NAME };
}

function qualified(before: string, from: number, named: readonly TableNamed[], known: Known): CompletionResult | null {
  const table = named.find((each) => each.alias === before.toLowerCase() || each.alias === before);
  const entry = table && describedAs(table, known);
  if (entry) return { from, options: entry.columns.map((each) => columnOption(each.name, each.type as FieldType)), validFor: NAME };
  const tables = known.tables.filter((each) => each.schema === before);
  return tables.length === 0 ? null : { from, options: tables.map(({ name }): Completion => ({ label: writtenAs(name) })), validFor: NAME };
}

const describedAs = ({ schema, table }: TableNamed, { described }: Known) =>
  described.find((each) => each.name === table && (schema === undefined || each.schema === schema));

const columnOption = (name: string, type: FieldType): Completion => ({ label: writtenAs(name), detail: typeWord(type), boost: 2 });

/** Columns of all tables in the text; one that several have is written with its table. */
function columnOptions(named: readonly TableNamed[], known: Known): readonly Completion[] {
  const columns = named.flatMap((table) => describedAs(table, known)?.columns.map((column) => ({ table, column })) ?? []);
  const counts = new Map<string, number>();
  for (const { column } of columns) counts.set(column.name, (counts.get(column.name) ?? 0) + 1);
  return columns.map(({ table, column }): Completion => {
    const option = columnOption(column.name, column.type as FieldType);
    const plain = (counts.get(column.name) ?? 0) < 2;
    return plain ? option : { ...option, label: `${writtenAs(table.alias)}.${writtenAs(column.name)}` };
  });
}

function tableOptions({ tables }: Known): readonly Completion[] {
  return tables.map(({ schema, name, view, estimate }): Completion => {
    const rows = estimate === null ? '' : `, ~${estimate} rows`;
    return {
      label: `${writtenAs(schema)}.${writtenAs(name)}`,
      displayLabel: `${schema}.${name}`,
      detail: `${view ? 'view' : 'table'}${rows}`,
    };
  });
}

/** Conditions that join the last table to one before it, by keys declared in the source. */
function joinsProposed(named: readonly TableNamed[], known: Known): readonly Completion[] {
  const last = named.at(-1);
  const entry = last && describedAs(last, known);
  if (!entry) return [];
  return entry.relations.flatMap((relation) =>
    named.slice(0, -1).flatMap((other): readonly Completion[] => {
      const same = other.table === relation.otherTable && (other.schema === undefined || other.schema === relation.otherSchema);
      if (!same) return [];
      const pairs = relation.columns.map(
        (column, at) =>
          `${writtenAs(last.alias)}.${writtenAs(column)} = ${writtenAs(other.alias)}.${writtenAs(relation.otherColumns[at] ?? '')}`,
      );
      return [{ label: pairs.join(' and '), detail: 'declared key', boost: 9 }];
    }),
  );
}

const words = (list: string, boost: number): readonly Completion[] => list.split(', ').map((label) => ({ label, boost }));

const WORDS = words(
  'select, from, where, and, or, not, in, is null, is not null, between, like, group by, order by, having, limit, join, left join, full join, cross join, on, as, case when, then, else, end, with, union, union all, intersect, except, distinct, over, partition by, filter, exists, lateral, values, asc, desc, nulls last, interval, date, timestamp',
  -2,
);

const FUNCTIONS = words(
  'abs, avg, ceil, coalesce, concat, count, current_date, date_trunc, dense_rank, extract, first_value, floor, greatest, initcap, lag, last_value, lead, least, left, length, lower, lpad, ltrim, max, min, mod, now, nullif, position, power, rank, replace, right, round, row_number, rpad, rtrim, split_part, sqrt, string_agg, substring, sum, to_char, to_date, to_number, trim, trunc, upper',
  -1,
);
