import { join } from 'node:path';
import type { DuckDBConnection } from '@duckdb/node-api';
import type { Client } from './client';

const LEVELS = ['hive_id', 'flagged'] as const;

/** A proof of a million rows in two group levels through Cendra, and the same lines made by hand of the same stored rows. */
export async function proofOf(client: Client, folder: string, connection: DuckDBConnection) {
  const dataset = await client.readings('reading_no < 1000000');
  const result = await client.run(dataset, 'full');
  const field = (column: string) => dataset.definition.steps[0]?.fields.find((each) => each.column === column)?.id ?? '';
  // Each try is another order of the same groups, for a proof is made once and remembered.
  const orders = [0, 1, 2, 3].map((bits) =>
    LEVELS.map((column, index) => ({ field: field(column), descending: ((bits >> index) & 1) === 1, subtotal: true })),
  );
  let current = dataset;
  let levels: unknown = [];
  const work = async () => {
    const next = orders.pop();
    const totals = [
      { field: field('weight_kg'), aggregate: 'sum' },
      { field: field('weight_kg'), aggregate: 'average' },
    ];
    const edits: object[] = [{ kind: 'set proof', property: 'levels', from: levels, to: next }];
    if (current === dataset) edits.push({ kind: 'set proof', property: 'totals', to: totals });
    levels = next;
    current = await client.edited(current, edits);
    return current;
  };
  const stored = join(folder, 'server', 'results', result, 'rows', '*.parquet');
  return {
    prepare: work,
    work: async () => client.proof(result, current),
    byHand: async () => {
      await connection.run(groupsByHand(stored, field));
      await connection.run(`copy (${linesByHand(stored, field)}) to '${join(folder, 'lines.parquet')}' (format parquet)`);
      await connection.runAndReadAll(`select * from read_parquet('${join(folder, 'lines.parquet')}') limit 200`);
    },
  };
}

type FieldOf = (column: string) => string;

function groupsByHand(stored: string, field: FieldOf): string {
  const [first, second, weight] = ['hive_id', 'flagged', 'weight_kg'].map((each) => `"${field(each)}"`);
  return `create or replace temp table groups as select ${first} as k1, ${second} as k2, 2 - grouping(${first}) - grouping(${second}) as level,
    count(*) as n, sum(${weight}) as total, count(${weight}) as counted from read_parquet('${stored}') group by rollup (${first}, ${second})`;
}

/** Headers before, totals behind each group, its rows in between. */
function linesByHand(stored: string, field: FieldOf): string {
  const [first, second] = ['hive_id', 'flagged'].map((each) => `"${field(each)}"`);
  const none = `select * from read_parquet('${stored}') limit 0`;
  const totals = (shown: string, kind: number) =>
    `select level, k1, k2, ${kind} as kind, n, ${shown}, null::bigint as row, r.* from groups left join (${none}) r on false`;
  return `select * from (
    select 2 as level, ${first} as k1, ${second} as k2, 1 as kind, null::bigint as n, null::decimal(38,2) as total, null::double as average, file_row_number as row, * exclude (file_row_number)
      from read_parquet('${stored}', file_row_number=true)
    union all ${totals('null, null', 0)}
    union all ${totals('total, null', 2)}
    union all ${totals('null, total / counted', 3)}
  ) order by level = 0, k1, case when level < 1 or kind = 1 then 1 else kind end, k2, kind, row`;
}
