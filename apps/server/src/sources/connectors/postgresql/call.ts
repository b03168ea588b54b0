import type { Client, FieldDef, QueryArrayResult } from 'pg';
import type { GivenColumn, ScriptStatement, SessionCall } from '@cendra/core';
import { LIMITS } from '../../../limits';
import { refused } from '../../../problems';
import type { Admitted, CalledResult, TextColumn } from '../connector';
import { refuseWhatReaches } from './admit';
import { columnsOfFields, describeText } from './describe-text';
import { runAlone } from './run-alone';
import { failing } from './script-problems';
import { tempSize } from './temp-tables';
import { alone } from './transaction';

/**
 * Calls of functions and procedures in a transaction that may make temp tables and is always taken back: what they give is
 * looked at, or kept as a temp table for what is asked behind them.
 */

type Row = readonly (string | null)[];
type Made = QueryArrayResult<(string | null)[]>;

/** The server's number for the type of a cursor's name. */
const REFCURSOR = 1790;
/** So many rows of a result are looked at, and so many cursors of a call. */
const ROWS_SHOWN = 200;
const CURSORS_MOST = 20;
/** As many as a step can name one of. */
const CURSOR_ROWS = 100;
/** So many rows of a cursor are on the way at a time; the room they take is looked at every so many times. */
const FETCHED = 2_000;
const LOOKED_EVERY = 25;

const quoted = (name: string) => `"${name.replaceAll('"', '""')}"`;

/**
 * Rejects a call that does more than call its routine, as names and types in it come with a definition: it is looked at as
 * any text of an analyst's is. And one of a routine that may do more than read, unless a steward let it run.
 */
export async function refuseCall(client: Client, { looked, call }: Calling, admitted: Admitted): Promise<void> {
  await refuseUnadmitted(client, call.signature, admitted);
  const asked = looked.text.replace(/^call /, 'select * from ');
  await refuseWhatReaches(client, asked, [...admitted, call.signature]);
}

type Calling = ScriptStatement & { readonly call: SessionCall };

async function refuseUnadmitted(client: Client, signature: string, admitted: Admitted): Promise<void> {
  const { rows } = await client.query<[string, string]>({
    text: `select p.oid::text, p.provolatile = 'v' or p.prosecdef or p.prokind = 'p' from pg_catalog.pg_proc p where p.oid = to_regprocedure($1)`,
    values: [signature],
    rowMode: 'array',
  });
  const [found] = rows;
  if (!found) throw refused(422, 'routine-gone', `The source has no ${signature} that can be called.`, {}, 'the function it was made with');
  if (found[1] === 't' && !admitted.includes(signature))
    throw refused(
      422,
      'routine-not-admitted',
      `${signature} may do more than compute, and no steward let it run here.`,
      {},
      'a steward who lets it run, in Procedures of its source',
    );
}

/** What a call gives, its first rows: its own, or the values it gives back and the rows of each of its cursors. */
export async function calledOnce(client: Client, text: string): Promise<readonly CalledResult[]> {
  return called(async () => {
    const { columns, gives } = await looked(client, text);
    if (gives === 'rows') {
      const { rows, first } = await runAlone(client, text, ROWS_SHOWN);
      return [{ result: { of: 'rows' }, columns, rows: first, count: rows }];
    }
    const made = await givenBack(client, text);
    const own = columns.filter((_each, at) => made.fields[at]?.dataTypeID !== REFCURSOR);
    const values: readonly CalledResult[] =
      own.length > 0
        ? [
            {
              result: { of: 'values' },
              columns: own,
              rows: made.rows.map((row) => valuesOf(made.fields, row)),
              count: `${made.rows.length}`,
            },
          ]
        : [];
    const results: CalledResult[] = [...values];
    for (const [at, cursor] of cursorsOf(made).slice(0, CURSORS_MOST).entries()) {
      const number = at + 1;
      const { fields, rows } = await fetched(client, cursor, `${number}`, ROWS_SHOWN + 1);
      results.push({
        result: { of: 'cursor', number, name: '' },
        columns: await columnsOfFields(client, fields),
        rows: rows.slice(0, ROWS_SHOWN).map(shortened),
        count: rows.length > ROWS_SHOWN ? null : `${rows.length}`,
      });
    }
    return results;
  });
}

/** Makes a call and keeps what is read of it as a temp table. Rejects where its columns are not those it gave before. */
export async function keepCall(client: Client, { text, call }: Calling): Promise<string> {
  return called(async () => {
    const { result, given, into } = call;
    if (result.of === 'rows') {
      const { columns } = await looked(client, text);
      await table(client, into, columns, given);
      return (await runAlone(client, `insert into pg_temp.${quoted(into)} ${text}`, 0)).rows ?? '0';
    }
    const made = await givenBack(client, text);
    if (result.of === 'values') {
      const columns = await columnsOfFields(
        client,
        made.fields.filter((each) => each.dataTypeID !== REFCURSOR),
      );
      await table(client, into, columns, given);
      await put(
        client,
        into,
        columns,
        made.rows.map((row) => valuesOf(made.fields, row)),
      );
      return String(made.rows.length);
    }
    const cursor = cursorsOf(made)[result.number - 1];
    const name = result.name || String(result.number);
    if (cursor === undefined) throw noCursor(name);
    let count = 0;
    let columns: readonly TextColumn[] | undefined;
    for (let turn = 1; ; turn++) {
      const { fields, rows } = await fetched(client, cursor, name, FETCHED);
      if (!columns) await table(client, into, (columns = await columnsOfFields(client, fields)), given);
      if (rows.length === 0) return String(count);
      await put(client, into, columns, rows);
      count += rows.length;
      if (turn % LOOKED_EVERY === 0 && (await tempSize(client)) > LIMITS.tempBytes.value) throw tooLarge();
    }
  });
}

export const tooLarge = () =>
  refused(
    507,
    'temp-tables-large',
    'What this keeps in temp tables takes too much room.',
    {},
    `at most ${LIMITS.tempBytes.value / 1e6} MB`,
  );

/** The one row of a procedure, or the few of a function that gives cursors: more of them than are read are not fetched. */
async function givenBack(client: Client, text: string): Promise<Made> {
  const few = text.startsWith('call ') ? text : `${text}\nlimit ${CURSOR_ROWS}`;
  return (await client.query<(string | null)[]>(alone(few))) as Made;
}

/** Whether the call gives rows itself, or values and cursors in one row or a few. */
async function looked(client: Client, text: string) {
  const { columns } = await describeText(client, text, []);
  const gives =
    text.startsWith('call ') || columns.some((each) => each.sourceType === 'refcursor') ? ('values' as const) : ('rows' as const);
  return { columns, gives };
}

/** What the server calls the cursors a call gave, in their order; null for one that has no name. */
const cursorsOf = ({ fields, rows }: Made): readonly (string | null)[] =>
  rows.flatMap((row) => row.filter((_each, at) => fields[at]?.dataTypeID === REFCURSOR));

const valuesOf = (fields: readonly FieldDef[], row: Row): Row => row.filter((_each, at) => fields[at]?.dataTypeID !== REFCURSOR);

async function fetched(client: Client, portal: string | null, name: string, most: number): Promise<Made> {
  if (portal === null) throw noCursor(name);
  try {
    return (await client.query<(string | null)[]>(alone(`fetch forward ${most} from ${quoted(portal)}`))) as Made;
  } catch (error) {
    if (codeOf(error) === '34000') throw noCursor(name);
    throw error;
  }
}

const noCursor = (name: string) =>
  refused(422, 'cursor-not-open', `The cursor ${name} was not opened by this call.`, {}, 'a cursor that is open when the call is over');

async function table(client: Client, into: string, columns: readonly TextColumn[], given: readonly GivenColumn[]): Promise<void> {
  const same =
    columns.length === given.length &&
    columns.every(({ column, sourceType }, at) => column === given[at]?.column && sourceType === given[at].sourceType);
  if (!same)
    throw refused(
      409,
      'text-columns-changed',
      'This call gives other columns now than when it was described.',
      {},
      'its fields taken over as they are now',
    );
  const list = columns.map(({ sourceType }, at) => `${columnAt(at)} ${sourceType}`).join(', ');
  await client.query(alone(`create temporary table ${quoted(into)} (${list})`));
}

/** Names of a result may be alike; what reads the table names its columns by their places. */
const columnAt = (at: number) => `c${at + 1}`;

/** Rows as texts, in one statement; the server reads them as it wrote them. */
async function put(client: Client, into: string, columns: readonly TextColumn[], rows: readonly Row[]): Promise<void> {
  if (rows.length === 0) return;
  const read = columns.map(({ sourceType }, at) => `${columnAt(at)}::${sourceType}`).join(', ');
  const lists = columns.map((_each, at) => `$${at + 1}::text[]`).join(', ');
  await client.query({
    text: `insert into pg_temp.${quoted(into)} select ${read} from unnest(${lists}) as given(${columns.map((_each, at) => columnAt(at)).join(', ')})`,
    values: columns.map((_each, at) => rows.map((row) => row[at] ?? null)),
  });
}

const shortened = (row: Row): Row => row.map((cell) => (cell === null ? null : cell.slice(0, 300)));

const codeOf = (error: unknown) => (typeof error === 'object' && error !== null && 'code' in error ? String(error.code) : '');

/** What a call does that cannot be done here, in plain words. */
async function called<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (codeOf(error) === '2D000')
      throw refused(
        422,
        'routine-commits',
        'It ends its transaction, so it cannot be run here: what runs here is always taken back.',
        {},
        'a procedure without commit and rollback',
      );
    throw failing(error);
  }
}
