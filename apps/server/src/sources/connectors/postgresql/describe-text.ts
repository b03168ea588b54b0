import type { Client, Connection } from 'pg';
import type { DescribedText, TextColumn } from '../connector';
import { postgresqlType } from './types';

/** What the server says of a statement it does not run. Types are its oids. */
interface Described {
  readonly fields: readonly DescribedColumn[];
  readonly parameters: readonly number[];
}

interface DescribedColumn {
  readonly name: string;
  readonly tableID: number;
  readonly columnID: number;
  readonly dataTypeID: number;
  readonly dataTypeModifier: number;
}

/**
 * A statement's columns and the types of its `$n`, by parsing it only. `types` are names of types for those that are
 * given one. Rejects with the driver's error; a transaction is then to be taken back.
 */
export async function describeText(client: Client, text: string, types: readonly (string | undefined)[]): Promise<DescribedText> {
  const oids = await oidsOf(client, types);
  const { fields, parameters } = await ask(client, text, oids);
  return named(client, fields, parameters);
}

/** The driver's own way of sending messages, which its types leave out. */
interface Wire {
  parse(message: object, more: boolean): void;
  describe(message: object, more: boolean): void;
  sync(): void;
  on(event: string, listener: (message: { readonly dataTypeIDs: readonly number[] }) => void): void;
  off(event: string, listener: (message: { readonly dataTypeIDs: readonly number[] }) => void): void;
}

const ignore = () => undefined;

/** Parse and Describe over the extended protocol, where several statements in one text are refused by the server. */
function ask(client: Client, text: string, types: readonly number[]): Promise<Described> {
  return new Promise((resolve, reject) => {
    let fields: readonly DescribedColumn[] = [];
    let parameters: readonly number[] = [];
    let failure: Error | undefined;
    let wire: Wire | undefined;
    const onParameters = ({ dataTypeIDs }: { readonly dataTypeIDs: readonly number[] }) => (parameters = dataTypeIDs);
    const over = () => wire?.off('parameterDescription', onParameters);
    client.query({
      submit(connection: Connection) {
        wire = connection as unknown as Wire;
        wire.on('parameterDescription', onParameters);
        wire.parse({ name: '', text, types }, true);
        wire.describe({ type: 'S', name: '' }, true);
        wire.sync();
        return null;
      },
      handleRowDescription: (message: { readonly fields: readonly DescribedColumn[] }) => (fields = message.fields),
      handleNoData: ignore,
      handleCommandComplete: ignore,
      handleEmptyQuery: ignore,
      handleError(error: Error) {
        failure = error;
        over();
        reject(error);
      },
      handleReadyForQuery() {
        over();
        if (!failure) resolve({ fields, parameters });
      },
    } as never);
  });
}

async function oidsOf(client: Client, types: readonly (string | undefined)[]): Promise<readonly number[]> {
  if (types.every((each) => each === undefined)) return types.map(() => 0);
  const { rows } = await client.query<[string]>({
    text: 'select coalesce(to_regtype(name)::oid, 0) from unnest($1::text[]) with ordinality n(name, at) order by at',
    values: [types.map((each) => each ?? null)],
    rowMode: 'array',
  });
  return rows.map(([oid]) => Number(oid));
}

/** The columns of rows that are there, as those of a statement that is described. */
export async function columnsOfFields(client: Client, fields: readonly DescribedColumn[]): Promise<readonly TextColumn[]> {
  return (await named(client, fields, [])).columns;
}

/** Domains are followed down to what they are made of; a collation that may call different texts equal is taken to. */
async function named(client: Client, fields: readonly DescribedColumn[], parameters: readonly number[]): Promise<DescribedText> {
  const { rows } = await client.query<(string | null)[]>({
    text: `with recursive asked as (
        select * from unnest($1::oid[], $2::int[], $3::oid[], $4::int[]) with ordinality as a(typ, mod, tab, col, at)
      ), base as (
        select at, typ, mod from asked
        union all
        select b.at, t.typbasetype, case when t.typtypmod >= 0 then t.typtypmod else b.mod end
        from base b join pg_catalog.pg_type t on t.oid = b.typ where t.typtype = 'd'
      )
      select format_type(b.typ, nullif(b.mod, -1)), format_type(b.typ, -1),
             t.typcollation <> 0 and coalesce(not c.collisdeterministic, exists (select from pg_catalog.pg_collation where not collisdeterministic)),
             coalesce(att.attnotnull, false), n.nspname, r.relname, att.attname
      from asked a join base b using (at) join pg_catalog.pg_type t on t.oid = b.typ and t.typtype <> 'd'
      left join pg_catalog.pg_class r on r.oid = a.tab left join pg_catalog.pg_namespace n on n.oid = r.relnamespace
      left join pg_catalog.pg_attribute att on att.attrelid = a.tab and att.attnum = a.col
      left join pg_catalog.pg_collation c on c.oid = att.attcollation
      order by a.at`,
    values: [
      [...fields.map((each) => each.dataTypeID), ...parameters],
      [...fields.map((each) => each.dataTypeModifier), ...parameters.map(() => -1)],
      [...fields.map((each) => each.tableID), ...parameters.map(() => 0)],
      [...fields.map((each) => each.columnID), ...parameters.map(() => 0)],
    ],
    rowMode: 'array',
  });
  const columns = fields.map(({ name }, index): TextColumn => {
    const [sourceType = '', , loose, notNull, schema, table, column] = rows[index] ?? [];
    return {
      column: name,
      named: name !== UNNAMED,
      sourceType: sourceType ?? '',
      type: postgresqlType(sourceType ?? ''),
      looseText: loose === 't',
      ...(schema && table && column ? { from: { schema, table, column, nullable: notNull !== 't' } } : {}),
    };
  });
  // Without a length: a value cast to `character` would be cut to its first one.
  const met = rows.slice(fields.length).map(([, unbounded]) => {
    const own = unbounded ?? 'text';
    return { sourceType: own, type: postgresqlType(own.replace(/\[\]$/, '')), several: own.endsWith('[]') };
  });
  return { columns, parameters: met };
}

/** What the server calls a column that has no name. */
const UNNAMED = '?column?';
