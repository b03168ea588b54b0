import { DuckDBInstance } from '@duckdb/node-api';
import type { DuckDBConnection } from '@duckdb/node-api';
import '../../src/engine/byte-order-marks';
import type { Client } from 'pg';
import type { FieldType, Relation, Step, Value } from '@cendra/core';
import { columnsOf, duckdb, duckdbTypeName, expressionsOf, floatText, lacking, readValue } from '@cendra/core';
import { keptOf, schema } from '../../../../packages/core/test/support/wire-rows';
import type { WireRow } from '../../../../packages/core/test/support/wire-rows';
import { superuser } from './cluster';

/** What PostgreSQL calls the types of the generated fields. */
export const SOURCE_TYPES: Record<string, string> = {
  w1: 'bigint',
  w2: 'bigint',
  d2: 'numeric(8,2)',
  d6: 'numeric(20,6)',
  d10: 'numeric(38,10)',
  open: 'numeric',
  f1: 'double precision',
  t1: 'text',
  t2: 'text',
  b1: 'boolean',
  day1: 'date',
  at1: 'timestamp without time zone',
  time1: 'time without time zone',
  z1: 'timestamp with time zone',
};
const fields = schema.fields.map(({ id, name, type }) => ({
  id,
  column: name,
  sourceType: SOURCE_TYPES[id] ?? 'text',
  type,
  role: 'attribute' as const,
  looseText: false,
}));
export const key = { id: 'n', column: 'n', sourceType: 'bigint', type: { kind: 'whole' as const }, role: 'key' as const, looseText: false };
/** A table with a key and a field of every type. */
export const table: Step = {
  id: 't',
  kind: 'table',
  name: '',
  off: false,
  inputs: [],
  source: 's',
  schema: 'pg_temp',
  table: 'trail_rows',
  fields: [key, ...fields],
  taken: ['n', 't1', 'd2'],
  keys: [['n']],
};

/** The generated table in PostgreSQL, and the same rows landed in DuckDB. */
export class Generated {
  private constructor(
    readonly client: Client,
    readonly engine: DuckDBConnection,
  ) {}

  static async open(): Promise<Generated> {
    const client = await superuser('postgres');
    // Worth its while for long statements alone.
    await client.query('set jit = off');
    await client.query(`create temp table trail_rows (n bigint, ${fields.map((each) => `${each.column} ${each.sourceType}`).join(', ')})`);
    const engine = await (await DuckDBInstance.create(':memory:')).connect();
    await engine.run(`set TimeZone='UTC'`);
    await engine.run(`create table landed (n bigint, ${fields.map(({ id, type }) => `${id} ${duckdbTypeName(type)}`).join(', ')})`);
    return new Generated(client, engine);
  }

  async close(): Promise<void> {
    await this.client.end();
    this.engine.closeSync();
  }

  async fill(rows: readonly WireRow[]): Promise<void> {
    await this.client.query('truncate trail_rows');
    await this.engine.run('delete from landed');
    if (rows.length === 0) return;
    const values = rows.flatMap((wire, n) => [n, ...fields.map((each) => wire[each.id] ?? null)]);
    const listed = (cell: (type: FieldType, at: number) => string) =>
      rows.map((_row, n) => {
        const from = n * (fields.length + 1) + 1;
        return `($${from}, ${fields.map(({ type }, at) => cell(type, from + at + 1)).join(', ')})`;
      });
    const into = (at: string, lines: readonly string[]) => `insert into ${at} values ${lines.join(', ')}`;
    await this.client.query({
      text: into(
        'trail_rows',
        listed((_type, at) => `$${at}`),
      ),
      values,
    });
    await this.engine.run(
      into(
        'landed',
        listed((type, at) => `cast($${at} as ${duckdbTypeName(type)})`),
      ),
      rows.flatMap((wire, n) => [n, ...fields.map((each) => keptOf(each.id, wire[each.id] ?? null))]),
    );
  }
}

/** The rows as core has them. */
export function rowsOf(rows: readonly WireRow[]): readonly ReadonlyMap<string, Value>[] {
  return rows.map(
    (wire, n) =>
      new Map<string, Value>([
        ['n', { digits: BigInt(n), scale: 0 }],
        ...fields.map(({ id, type }): [string, Value] => [id, valueOf(type, keptOf(id, wire[id] ?? null))]),
      ]),
  );
}

function valueOf(type: (typeof fields)[number]['type'], wire: string | null): Value {
  const read = wire === null ? undefined : readValue(type, wire);
  return read?.ok ? read.value : null;
}

/** The same relation over rows that were brought to the combine engine. */
export function landed(relation: Relation): Relation {
  if (relation.node === 'table') return { node: 'landed', handle: 'landed', columns: columnsOf(relation) };
  return 'input' in relation ? { ...relation, input: landed(relation.input) } : relation;
}

/** Whether DuckDB claims everything a relation computes. */
export function claimedThroughout(relation: Relation): boolean {
  if (expressionsOf(relation).some((each) => lacking(duckdb, each) !== undefined)) return false;
  return 'input' in relation ? claimedThroughout(relation.input) : true;
}

/** A value as core writes it. What fits no type leaves a source as its text, and is null here. */
export function asCore(type: FieldType | undefined, cell: string | boolean | null): string | null {
  if (typeof cell === 'string' && type?.kind !== 'float' && /^(?:NaN|-?[Ii]nfinity)$| BC$|^12345-/.test(cell) && type?.kind !== 'text')
    return null;
  if (cell !== null && type?.kind === 'float') return floatText(Number(String(cell).replace('inf', 'Infinity')));
  if (cell === null || type?.kind !== 'yesno') return cell as string | null;
  return String(cell === true || cell === 't' || cell === 'true');
}
