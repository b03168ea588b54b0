import type { Client } from 'pg';
import type { RoutineOut } from '@cendra/core';
import type { CatalogueRoutine, RoutineArgument, RoutineText } from '../connector';
import { postgresqlType } from './types';

/** Routines of the server itself, and those that came with an extension, are not the analysts'. */
const OF_PEOPLE = `n.nspname not in ('pg_catalog', 'information_schema') and n.nspname !~ '^pg_(toast|temp)'
  and not exists (select from pg_depend d where d.classid = 'pg_proc'::regclass and d.objid = p.oid and d.deptype = 'e')
  and p.prokind in ('f', 'p') and p.prorettype not in ('trigger'::regtype, 'event_trigger'::regtype)
  and has_schema_privilege(n.oid, 'usage') and has_function_privilege(p.oid, 'execute')`;

/** What tells it from others of its name, as `to_regprocedure` reads it. */
const SIGNATURE = "format('%I.%I(%s)', n.nspname, p.proname, oidvectortypes(p.proargtypes))";

/** Arguments one takes, in their order; domains are followed down to what they are made of. */
const ARGUMENTS = `coalesce((
  with recursive given as (
    select a.at, coalesce(p.proargnames[a.at], '') as name, coalesce(p.proargmodes[a.at]::text, 'i') as mode, a.typ
    from unnest(coalesce(p.proallargtypes, p.proargtypes::oid[])) with ordinality as a(typ, at)
  ), base as (
    select at, name, mode, typ from given
    union all
    select b.at, b.name, b.mode, t.typbasetype from base b join pg_type t on t.oid = b.typ where t.typtype = 'd'
  ), numbered as (
    select b.*, t.typtype, row_number() over (order by b.at) as nth
    from base b join pg_type t on t.oid = b.typ and t.typtype <> 'd' where b.mode in ('i', 'b', 'v')
  )
  select json_agg(json_build_object('name', name, 'mode', mode, 'sourceType', format_type(typ, -1),
    'starts', case when nth > p.pronargs - p.pronargdefaults then pg_get_function_arg_default(p.oid, at::int) end) order by at)
  from numbered), '[]')`;

/** What one gives back by its arguments, each at its place; domains are followed down. */
const OUTS = `coalesce((
  with recursive given as (
    select a.at, coalesce(p.proargnames[a.at], '') as name, p.proargmodes[a.at]::text as mode, a.typ
    from unnest(p.proallargtypes) with ordinality as a(typ, at)
  ), base as (
    select at, name, mode, typ from given where mode in ('o', 'b')
    union all
    select b.at, b.name, b.mode, t.typbasetype from base b join pg_type t on t.oid = b.typ where t.typtype = 'd'
  )
  select json_agg(json_build_object('name', b.name, 'sourceType', format_type(b.typ, -1), 'taken', b.mode = 'b', 'at', b.at - 1) order by b.at)
  from base b join pg_type t on t.oid = b.typ and t.typtype <> 'd'), '[]')`;

const outOf = ({ name, sourceType, taken, at }: Omit<RoutineOut, 'type' | 'cursor'>): RoutineOut => ({
  name,
  sourceType,
  type: postgresqlType(sourceType),
  cursor: sourceType === 'refcursor',
  at,
  taken,
});

/** What a procedure gives back, as a function that did would say it. */
const givenBack = (outs: readonly RoutineOut[]) => outs.map(({ name, sourceType }) => `${name} ${sourceType}`.trim()).join(', ');

interface Given {
  readonly name: string;
  readonly mode: string;
  readonly sourceType: string;
  readonly starts: string | null;
}

const argumentOf = ({ name, mode, sourceType, starts }: Given): RoutineArgument => ({
  name,
  sourceType,
  type: postgresqlType(sourceType.replace(/\[\]$/, '')),
  several: sourceType.endsWith('[]'),
  collects: mode === 'v',
  startsAs: starts,
});

/** Functions and procedures the user may call, with what they take and give. */
export async function readRoutines(client: Client): Promise<readonly CatalogueRoutine[]> {
  const { rows } = await client.query<string[]>({
    text: `select n.nspname, p.proname, ${SIGNATURE}, p.prokind, coalesce(pg_get_function_result(p.oid), ''),
             ${ARGUMENTS}, p.provolatile, p.prosecdef, coalesce(obj_description(p.oid, 'pg_proc'), ''), md5(p.prosrc || coalesce(p.proconfig::text, '')),
             p.prorettype = 'record'::regtype and p.proallargtypes is null, p.prorettype = 'refcursor'::regtype, ${OUTS}
           from pg_proc p join pg_namespace n on n.oid = p.pronamespace
           where ${OF_PEOPLE} order by 1, 2, 3`,
    rowMode: 'array',
  });
  return rows.map(
    ([
      schema = '',
      name = '',
      signature = '',
      kind,
      gives = '',
      taken = '[]',
      volatility,
      definer,
      comment = '',
      body = '',
      open,
      cursors,
      given = '[]',
    ]) => {
      const outs = (JSON.parse(given) as readonly RoutineOut[]).map(outOf);
      return {
        schema,
        name,
        signature,
        kind: kind === 'p' ? 'procedure' : 'function',
        gives: gives === '' ? givenBack(outs) : gives,
        outs,
        arguments: (JSON.parse(taken) as readonly Given[]).map(argumentOf),
        mayWrite: volatility === 'v',
        withOwnersRights: definer === 't',
        columnsUnsaid: open === 't',
        cursors: cursors === 't',
        comment,
        body,
      };
    },
  );
}

/** The text a routine was made with, as the server writes it; undefined where there is none of that signature. */
export async function readRoutineText(client: Client, signature: string): Promise<RoutineText | undefined> {
  const { rows } = await client.query<[string]>({
    text: `select pg_get_functiondef(p.oid) from pg_proc p join pg_namespace n on n.oid = p.pronamespace
           where p.oid = to_regprocedure($1) and ${OF_PEOPLE}`,
    values: [signature],
    rowMode: 'array',
  });
  return rows[0] && { text: rows[0][0] };
}

/** The query a view stands for; undefined where there is no such view to be read. */
export async function readViewText(client: Client, schema: string, view: string): Promise<RoutineText | undefined> {
  const { rows } = await client.query<[string]>({
    text: `select pg_get_viewdef(c.oid, true) from pg_class c join pg_namespace n on n.oid = c.relnamespace
           where n.nspname = $1 and c.relname = $2 and c.relkind in ('v', 'm') and has_schema_privilege(n.oid, 'usage') and has_table_privilege(c.oid, 'select')`,
    values: [schema, view],
    rowMode: 'array',
  });
  return rows[0] && { text: rows[0][0].trim().replace(/;$/, '') };
}
