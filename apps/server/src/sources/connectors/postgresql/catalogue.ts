import type { Client } from 'pg';
import type { CatalogueKey, CatalogueRelation } from '@cendra/core';
import type { CatalogueTable, DescribedColumn, DescribedTable } from '../connector';
import { postgresqlType } from './types';

/** Schemas of the server itself. */
const OWN = `n.nspname not in ('pg_catalog', 'information_schema') and n.nspname !~ '^pg_(toast|temp)'`;

type Cells = (string | null)[];

async function ask(client: Client, text: string, values: unknown[] = []): Promise<Cells[]> {
  const result = await client.query<Cells>({ text, values, rowMode: 'array' });
  return result.rows;
}

const isTrue = (cell: string | null | undefined) => cell === 't';
const estimateOf = (cell: string | null | undefined) => (cell === null || cell === undefined || Number(cell) < 0 ? null : Number(cell));

/** Tables and views the user may read, with the planner's row estimate; never analysed ones have none. */
export async function readTables(client: Client): Promise<readonly CatalogueTable[]> {
  const rows = await ask(
    client,
    `select n.nspname, c.relname, c.relkind in ('v', 'm'), case when c.relkind = 'v' then -1 else c.reltuples end::bigint, coalesce(obj_description(c.oid, 'pg_class'), '')
     from pg_class c join pg_namespace n on n.oid = c.relnamespace
     where c.relkind in ('r', 'p', 'v', 'm', 'f') and not c.relispartition and ${OWN}
       and has_schema_privilege(n.oid, 'usage') and (has_table_privilege(c.oid, 'select') or has_any_column_privilege(c.oid, 'select'))
     order by 1, 2`,
  );
  return rows.map(([schema, name, view, estimate, comment]) => ({
    schema: schema ?? '',
    name: name ?? '',
    view: isTrue(view),
    estimate: estimateOf(estimate),
    comment: comment ?? '',
  }));
}

/** Columns, keys and relations of one table. pg_constraint and pg_index, because a select-only role sees no information_schema constraints. */
export async function readTable(client: Client, schema: string, table: string): Promise<DescribedTable | undefined> {
  const [found] = await ask(
    client,
    `select c.oid, case when c.relkind = 'v' then -1 else c.reltuples end::bigint from pg_class c join pg_namespace n on n.oid = c.relnamespace
     where n.nspname = $1 and c.relname = $2 and c.relkind in ('r', 'p', 'v', 'm', 'f') and ${OWN}
       and has_schema_privilege(n.oid, 'usage') and (has_table_privilege(c.oid, 'select') or has_any_column_privilege(c.oid, 'select'))`,
    [schema, table],
  );
  if (!found) return undefined;
  const [oid, estimate] = found;
  const keys = await readKeys(client, oid);
  const relations = await readRelations(client, oid);
  const columns = await readColumns(client, oid, keys, relations);
  return { schema, name: table, columns, keys, relations, estimate: estimateOf(estimate) };
}

async function readKeys(client: Client, oid: string | null | undefined): Promise<readonly CatalogueKey[]> {
  const rows = await ask(
    client,
    `select i.indisprimary, array_to_json(array(select a.attname from unnest(i.indkey::int2[]) with ordinality k(n, o) join pg_attribute a on a.attrelid = i.indrelid and a.attnum = k.n where k.o <= i.indnkeyatts order by k.o))
     from pg_index i where i.indrelid = $1 and i.indisunique and i.indisvalid and i.indpred is null and i.indexprs is null order by i.indisprimary desc, i.indexrelid`,
    [oid],
  );
  return rows.map(([primary, columns]) => ({ primary: isTrue(primary), columns: names(columns) }));
}

const names = (json: string | null | undefined) => JSON.parse(json ?? '[]') as string[];

async function readRelations(client: Client, oid: string | null | undefined): Promise<readonly CatalogueRelation[]> {
  const columns = (relation: string, keys: string) =>
    `array_to_json(array(select a.attname from unnest(${keys}) with ordinality k(n, o) join pg_attribute a on a.attrelid = ${relation} and a.attnum = k.n order by k.o))`;
  const rows = await ask(
    client,
    `select c.conrelid = $1, ${columns('c.conrelid', 'c.conkey')}, ${columns('c.confrelid', 'c.confkey')}, fn.nspname, f.relname, tn.nspname, t.relname
     from pg_constraint c
     join pg_class t on t.oid = c.conrelid join pg_namespace tn on tn.oid = t.relnamespace
     join pg_class f on f.oid = c.confrelid join pg_namespace fn on fn.oid = f.relnamespace
     where c.contype = 'f' and (c.conrelid = $1 or c.confrelid = $1) and c.conparentid = 0 order by c.conname`,
    [oid],
  );
  return rows.map(([out, own, other, foreignSchema, foreignTable, fromSchema, fromTable]): CatalogueRelation =>
    isTrue(out)
      ? {
          direction: 'out',
          columns: names(own),
          otherSchema: foreignSchema ?? '',
          otherTable: foreignTable ?? '',
          otherColumns: names(other),
        }
      : { direction: 'in', columns: names(other), otherSchema: fromSchema ?? '', otherTable: fromTable ?? '', otherColumns: names(own) },
  );
}

/** Domains are followed down to the type they are made of, whose name and modifier decide the field type. */
async function readColumns(
  client: Client,
  oid: string | null | undefined,
  keys: readonly CatalogueKey[],
  relations: readonly CatalogueRelation[],
): Promise<readonly DescribedColumn[]> {
  const rows = await ask(
    client,
    `with recursive base as (
       select a.attnum, a.attname, a.atttypid typ, a.atttypmod mod, a.attnotnull, a.attcollation, a.atttypid declared, a.atttypmod declaredmod from pg_attribute a
       where a.attrelid = $1 and a.attnum > 0 and not a.attisdropped and has_column_privilege($1::oid, a.attnum, 'select')
       union all
       select b.attnum, b.attname, t.typbasetype, case when t.typtypmod >= 0 then t.typtypmod else b.mod end, b.attnotnull or t.typnotnull, b.attcollation, b.declared, b.declaredmod
       from base b join pg_type t on t.oid = b.typ where t.typtype = 'd'
     )
     select b.attname, format_type(b.typ, nullif(b.mod, -1)), format_type(b.declared, nullif(b.declaredmod, -1)), b.attnotnull,
            coalesce(not c.collisdeterministic, false), coalesce(col_description($1::oid, b.attnum), '')
     from base b join pg_type t on t.oid = b.typ and t.typtype <> 'd' left join pg_collation c on c.oid = b.attcollation order by b.attnum`,
    [oid],
  );
  return rows.map(([name, sourceType, declaredType, notNull, looseText, comment]): DescribedColumn => {
    const column = name ?? '';
    return {
      name: column,
      sourceType: sourceType ?? '',
      declaredType: declaredType ?? '',
      type: postgresqlType(sourceType ?? ''),
      nullable: !isTrue(notNull),
      primaryKey: keys.some((key) => key.primary && key.columns.includes(column)),
      foreignKey: relations.some((each) => each.direction === 'out' && each.columns.includes(column)),
      unique: keys.some((key) => key.columns.length === 1 && key.columns[0] === column),
      looseText: isTrue(looseText),
      comment: comment ?? '',
    };
  });
}
