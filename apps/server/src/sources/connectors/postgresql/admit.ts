import type { Client } from 'pg';
import type { AskedOfSource, Place, Problem, TextWithin } from '@cendra/core';
import { brokenText, guard, problem } from '@cendra/core';
import { LIMITS } from '../../../limits';
import { ProblemException } from '../../../problems';
import type { Admitted } from '../connector';
import { describeText } from './describe-text';
import { grammar } from './grammar';
import { textProblem } from './text-problems';

/**
 * Looks at texts of analysts' before a statement that holds them runs: each by PostgreSQL's own grammar, by what this
 * server says of the functions it calls, and by what columns it gives. Rejects with a ProblemException.
 */
export async function admit(client: Client, texts: readonly TextWithin[], admitted: Admitted): Promise<void> {
  for (const { step, text, given } of texts) {
    await refuseWhatReaches(client, text, admitted, { step });
    const { columns } = await describeText(client, text, []).catch((error: unknown) => {
      // Its places are those of what was made of the text, which nobody sees.
      throw textProblem(error, '', { step });
    });
    const same =
      columns.length === given.length &&
      columns.every(({ column, sourceType }, at) => column === given[at]?.column && sourceType === given[at].sourceType);
    if (!same)
      throw new ProblemException(409, [
        problem(
          'text-columns-changed',
          'This text gives other columns now than when it was described.',
          { step },
          'its fields taken over as they are now',
        ),
      ]);
  }
  // A text may have changed how long statements may take, had everything above let it.
  await client.query(`set local statement_timeout = ${LIMITS.statementTime.value}`);
}

/** Rejects with a ProblemException where the text does, or may do, more than read. */
export async function refuseWhatReaches(client: Client, text: string, admitted: Admitted, place: Place = {}): Promise<void> {
  const parse = await grammar();
  const parsed = parse(text);
  if (!parsed.ok) throw broken(brokenText(text, parsed), place);
  const { problems, asks } = guard(text, parsed);
  if (problems.length > 0)
    throw new ProblemException(
      422,
      problems.map((each) => ({ ...each, place: { ...each.place, ...place } })),
    );
  const reaching = await reachingProblems(client, asks, admitted, place);
  if (reaching.length > 0) throw new ProblemException(422, reaching);
}

/** What a source says of the names a text calls: those that may do more than compute, unless a steward let them run. */
export async function reachingProblems(
  client: Client,
  asks: AskedOfSource,
  admitted: Admitted,
  place: Place = {},
): Promise<readonly Problem[]> {
  const reaching = await reachingFunctions(client, asks, admitted);
  return reaching.map((name) =>
    problem(
      'function-may-write',
      `${name} may do more than compute: the source has it as volatile, or with its owner’s rights.`,
      place,
      'a function declared stable or immutable, or one a steward has let run here',
    ),
  );
}

const broken = (found: Problem, place: Place) =>
  new ProblemException(422, [{ ...found, place: { ...found.place, ...place } }], found.detail);

/** Volatile functions that only compute. */
const HARMLESS = ['random', 'clock_timestamp', 'timeofday', 'gen_random_uuid', 'uuid_generate_v4', 'random_normal'];

/**
 * Of the names a text calls, those under which the source has a function that is volatile or runs with its owner's
 * rights, wherever it stands: which one a call means is settled by types and paths, and is not guessed here.
 */
async function reachingFunctions(client: Client, asks: AskedOfSource, admitted: Admitted): Promise<readonly string[]> {
  if (asks.functions.length + asks.attributes.length + asks.operators.length === 0) return [];
  const { rows } = await client.query<[string]>({
    text: `select distinct p.proname from pg_catalog.pg_proc p
           where (p.provolatile = 'v' or p.prosecdef) and p.proname <> all ($4::text[])
             and p.oid <> all (select coalesce(to_regprocedure(each), 0) from unnest($5::text[]) as each)
             and (p.proname = any ($1::text[]) or (p.proname = any ($2::text[]) and p.pronargs >= 1 and p.pronargs - p.pronargdefaults <= 1))
           union
           select 'The operator ' || o.oprname from pg_catalog.pg_operator o join pg_catalog.pg_proc p on p.oid = o.oprcode
           where o.oprname = any ($3::text[]) and (p.provolatile = 'v' or p.prosecdef)
           order by 1`,
    values: [asks.functions, asks.attributes, asks.operators, HARMLESS, admitted],
    rowMode: 'array',
  });
  return rows.map(([name]) => (name.startsWith('The ') ? name : `The function ${name}`));
}
