import type { Client } from 'pg';
import type { ScriptAct, TempNames } from '@cendra/core';
import { fillOf, guardStatement, NO_TEMPS, tokensOf } from '@cendra/core';
import type { Admitted, DescribedText, ScriptToDescribe } from '../connector';
import { reachingProblems } from './admit';
import { describeText } from './describe-text';
import { grammar } from './grammar';
import { problemAt, readable, refuseProblems, refuseValues, sentProblem } from './script-problems';
import { alone, TEMPS_PATH } from './transaction';

const NO_COLUMNS: DescribedText = { columns: [], parameters: [] };

/**
 * What a script's last statement gives: temp tables are made without their rows, so that each statement finds those it
 * speaks of, and nothing else runs. All of it is taken back.
 */
export async function describeScript(client: Client, script: readonly ScriptToDescribe[], admitted: Admitted): Promise<DescribedText> {
  await client.query(`begin transaction read write; ${TEMPS_PATH}`);
  try {
    const parameters: DescribedText['parameters'][number][] = [];
    const acts: ScriptAct[] = [];
    let temps: TempNames = NO_TEMPS;
    let last = NO_COLUMNS;
    for (const statement of script) {
      try {
        const looked = await lookedAt(client, statement, temps, admitted);
        last = looked.described;
        temps = looked.temps;
        parameters.push(...last.parameters);
        acts.push(looked.act);
      } catch (error) {
        throw problemAt(statement, error);
      }
    }
    return { columns: last.columns, parameters, acts };
  } finally {
    await client.query('rollback').catch(() => undefined);
  }
}

async function lookedAt(client: Client, { text, types }: ScriptToDescribe, temps: TempNames, admitted: Admitted) {
  const looked = guardStatement(text, readable(text, await grammar()), temps);
  refuseProblems(looked.problems);
  refuseProblems(await reachingProblems(client, looked.asks, admitted));
  const { act } = looked;
  const described = await (async (): Promise<DescribedText> => {
    if (act.does === 'nothing') return NO_COLUMNS;
    if (act.does === 'reads' || act.does === 'writes')
      return describeText(client, text, types).catch((error: unknown) => {
        throw sentProblem(error, text, (offset) => offset);
      });
    if (act.does === 'makes') {
      refuseValues(types);
      await client.query(alone(text)).catch((error: unknown) => {
        throw sentProblem(error, text, (offset) => offset);
      });
      return NO_COLUMNS;
    }
    const fill = fillOf(text);
    if (!fill || act.there) return NO_COLUMNS;
    const back = (offset: number) => offset + fill.from;
    const query = await describeText(client, fill.query, types).catch((error: unknown) => {
      throw sentProblem(error, fill.query, back);
    });
    const empty = withoutValues(
      fill.empty,
      query.parameters.map((each) => each.sourceType),
    );
    await client.query(alone(empty)).catch((error: unknown) => {
      throw sentProblem(error, empty, () => 0);
    });
    return { columns: [], parameters: query.parameters };
  })();
  return { described, temps: looked.temps, act };
}

/** A table made without rows needs no values, only their types. */
function withoutValues(text: string, types: readonly string[]): string {
  return tokensOf(text)
    .map((each) => (each.kind === 'numbered' ? `null::${types[Number(each.text.slice(1)) - 1] ?? 'text'}` : each.text))
    .join('');
}
