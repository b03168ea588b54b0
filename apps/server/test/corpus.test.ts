import { TEXT_MOST } from '@cendra/core';
import { CORPUS } from '../../../packages/core/test/support/corpus';
import { described } from './support/texts';
import { started } from './support/proofs';

/** What an analyst may paste, in every dressing, is described by the source it is written for: each dressing gives the columns of the plain text. */

const server = started();

test('every statement is described, whatever it is dressed in', async () => {
  const plain = new Map<string, unknown>();
  const wrong: unknown[] = [];
  const given = CORPUS.filter(({ text }) => text.length <= TEXT_MOST);
  expect(given.length).toBeGreaterThan(300);
  for (const { text, of, dressed } of given.toSorted((a, b) => Number(b.dressed === 'as it is') - Number(a.dressed === 'as it is'))) {
    const { problems, columns = [] } = await described(server.analyst, server.source, text);
    const told = columns.map(({ column, sourceType }) => [column, sourceType]);
    if (dressed === 'as it is') plain.set(of.text, told);
    if (problems.length > 0) wrong.push([dressed, of.text, problems[0]]);
    else if (JSON.stringify(told) !== JSON.stringify(plain.get(of.text))) wrong.push([dressed, of.text, told, plain.get(of.text)]);
  }
  expect(wrong).toEqual([]);
});
