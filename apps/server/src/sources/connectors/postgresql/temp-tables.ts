import type { Client } from 'pg';
import type { RowsDigest, TempRows, TempTable } from '../connector';
import { alone } from './transaction';

/** So much of a cell is looked at. */
const CELL_CHARACTERS = 300;

/** The temp tables that stand in a session, by name. Temp objects come behind the system's own, so none takes a catalogue's place here. */
export async function tempTables(client: Client): Promise<readonly TempTable[]> {
  const { rows } = await client.query<[string, string, string, string | null]>(
    alone(`select c.relname, a.attname, pg_catalog.format_type(a.atttypid, a.atttypmod),
                  (select k.ord::text from pg_catalog.pg_index i, unnest(i.indkey::int2[]) with ordinality k(att, ord)
                   where i.indrelid = c.oid and i.indisprimary and k.att = a.attnum)
           from pg_catalog.pg_class c join pg_catalog.pg_attribute a on a.attrelid = c.oid
           where c.relnamespace = pg_catalog.pg_my_temp_schema() and c.relkind = 'r' and a.attnum > 0 and not a.attisdropped
           order by c.relname, a.attnum`),
  );
  const tables = new Map<string, { columns: TempTable['columns'][number][]; key: [number, string][] }>();
  for (const [name, column, type, inKey] of rows) {
    const table = tables.get(name) ?? { columns: [], key: [] };
    table.columns.push({ name: column, type });
    if (inKey !== null) table.key.push([Number(inKey), column]);
    tables.set(name, table);
  }
  return [...tables].map(([name, { columns, key }]) => ({
    name,
    columns,
    key: key.sort(([a], [b]) => a - b).map(([, column]) => column),
  }));
}

/** How many rows a temp table has, and the first of them in the order of a key, as texts. */
export async function tempRows(client: Client, { name, columns }: TempTable, key: readonly string[], most: number): Promise<TempRows> {
  const table = `pg_temp.${quoted(name)}`;
  const counted = await client.query<[string]>(alone(`select count(*)::text from ${table}`));
  const list = columns.map((each) => `left(${quoted(each.name)}::text, ${CELL_CHARACTERS})`).join(', ');
  const order = key.length > 0 ? ` order by ${key.map(quoted).join(', ')}` : '';
  const { rows } = await client.query<(string | null)[]>(alone(`select ${list || "''"} from ${table}${order} limit ${most}`));
  return { count: counted.rows[0]?.[0] ?? '0', rows };
}

/** What the temp tables of a session take on the source's disk, in bytes. */
export async function tempSize(client: Client): Promise<number> {
  const { rows } = await client.query<[string]>(
    alone(`select coalesce(sum(pg_catalog.pg_total_relation_size(c.oid)), 0)::text from pg_catalog.pg_class c
           where c.relnamespace = pg_catalog.pg_my_temp_schema() and c.relkind = 'r'`),
  );
  return Number(rows[0]?.[0] ?? 0);
}

/** How many rows a query gives, and the sum of a number made of what each of them says. */
export async function rowsDigest(client: Client, query: string): Promise<RowsDigest> {
  const { rows } = await client.query<[string, string]>(
    alone(`select count(*)::text, coalesce(sum(('x' || substr(md5(q::text), 1, 15))::bit(60)::bigint), 0)::text from (
${query}
) q`),
  );
  return { rows: rows[0]?.[0] ?? '0', sum: rows[0]?.[1] ?? '0' };
}

const quoted = (name: string) => `"${name.replaceAll('"', '""')}"`;
