import { loadModule, parseSync, scanSync } from 'libpg-query';
import type { DescribedPart, SaidText, SameRows, TextToSay } from '@cendra/core';
import { describedPart, heldAgainst, parseWith, sayText, tablesIn, tokensOf } from '@cendra/core';
import type { DatasetBody, Person } from './cendra';
import { unique } from './cluster';
import { described, sqlOf } from './texts';

const parse = parseWith({ parse: parseSync, scan: scanSync });

/** The text of a dataset in steps, as the bench finds them: tables and parts that stay are asked of the source. */
export async function saidInSteps(person: Person, source: string, dataset: DatasetBody): Promise<SaidText> {
  await loadModule();
  const step = sqlOf(dataset);
  const named = tablesIn(tokensOf(step.sql.text)).filter(
    ({ schema }) => schema !== undefined && !['pg_catalog', 'information_schema'].includes(schema),
  );
  const addresses = [...new Map(named.map((each) => [`${each.schema}/${each.table}`, each])).keys()];
  const tables = await Promise.all(addresses.map((each) => person.get<TextToSay['tables'][number]>(`/sources/${source}/tables/${each}`)));
  const { parameters, calendar } = dataset.definition;
  const asked: DescribedPart[] = [];
  for (;;) {
    let minted = 0;
    const prefix = unique('said');
    const said = sayText({ step, parameters, calendar, tables, described: asked, usedElsewhere: [] }, parse, () => `${prefix}-${minted++}`);
    if (said.kind !== 'asks') return said;
    const answer = await described(
      person,
      source,
      said.text,
      parameters.map(({ name, type }) => ({ name, type })),
    );
    if (answer.problems.length > 0) throw new Error(`${said.text}: ${answer.problems.map((each) => each.message).join(' ')}`);
    asked.push(describedPart(said.text, answer));
  }
}

/** The rows of a dataset's text held against those of steps in its place. */
export async function sameRowsOf(
  person: Person,
  dataset: DatasetBody,
  said: SaidText & { kind: 'said' },
  values: Record<string, readonly string[]> = {},
): Promise<SameRows> {
  const question = heldAgainst(sqlOf(dataset), said);
  return person.post<SameRows>('/answers', { dataset: dataset.id, revision: dataset.revision, values, question });
}
