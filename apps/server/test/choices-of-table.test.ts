import type { Choices, Edit, FoundValues, KnownValues, Parameter, Question } from '@cendra/core';
import { sourcesOf } from '@cendra/core';
import type { DatasetBody } from './support/cendra';
import { withSuperuser } from './support/cluster';
import { started } from './support/proofs';
import { datasetOfText } from './support/texts';

/** Choices of a table that no step reads: offered as they are in the source, narrowed by what is chosen before. */

const server = started();

const column = (name: string, type: 'text' | 'whole', sourceType = 'text') => ({
  name,
  sourceType,
  type: { kind: type },
  looseText: false,
});

const choicesOf = (given: Partial<Choices & { from: 'table' }>): Choices => ({
  from: 'table',
  table: {
    source: server.source,
    schema: 'coop',
    table: 'apiaries',
    columns: [column('code', 'text'), column('name', 'text'), column('district_code', 'text')],
  },
  field: 'code',
  label: 'name',
  sorted: 'by label',
  narrowedBy: [],
  ...given,
});

async function datasetOffering(choices: (parameters: readonly Parameter[]) => Choices): Promise<DatasetBody> {
  const text =
    'select h.id from coop.harvests h join coop.apiaries a on a.code = h.apiary_code where a.district_code = :district and h.apiary_code = :apiary';
  return datasetOfText(server.analyst, server.source, text, ({ definition }): readonly Edit[] =>
    definition.parameters.flatMap((each): readonly Edit[] =>
      each.name === 'apiary'
        ? [{ kind: 'set parameter', parameter: each.id, property: 'choices', from: undefined, to: choices(definition.parameters) }]
        : [],
    ),
  );
}

const parameterIn = ({ definition }: DatasetBody, name: string) => definition.parameters.find((each) => each.name === name)?.id ?? '';

const ask = <A>(dataset: DatasetBody, question: Question, values: Record<string, readonly string[]> = {}) =>
  server.analyst.post<A>('/answers', { dataset: dataset.id, revision: dataset.revision, values, question });

const own = async (sql: string) => (await withSuperuser('cooperative', (client) => client.query<{ code: string; name: string }>(sql))).rows;

test('values come with their labels, found by a part of either', async () => {
  const dataset = await datasetOffering(() => choicesOf({}));
  expect(sourcesOf(dataset.definition)).toEqual([server.source]);
  const [first] = await own('select code, name from coop.apiaries where name is not null order by name collate "C" limit 1');
  const parameter = parameterIn(dataset, 'apiary');
  const found = await ask<FoundValues>(dataset, { kind: 'choices', parameter, search: first?.name.slice(0, 6) ?? '' });
  expect(found.values).toContainEqual({ value: first?.code, label: first?.name, rows: '1' });
  const known = await ask<KnownValues>(dataset, { kind: 'known choices', parameter, values: [first?.code ?? '', 'nowhere'] });
  expect(known.missing.map((each) => each.value)).toEqual(['nowhere']);
});

test('another parameter narrows them; blank it narrows nothing', async () => {
  const dataset = await datasetOffering((parameters) =>
    choicesOf({ narrowedBy: [{ parameter: parameters.find((each) => each.name === 'district')?.id ?? '', field: 'district_code' }] }),
  );
  const [district] = await own(
    'select district_code as code, count(*)::text as name from coop.apiaries group by 1 order by count(*), 1 limit 1',
  );
  const question: Question = { kind: 'choices', parameter: parameterIn(dataset, 'apiary'), search: '' };
  const narrowed = await ask<FoundValues>(dataset, question, { [parameterIn(dataset, 'district')]: [district?.code ?? ''] });
  expect(narrowed.values).toHaveLength(Number(district?.name));
  expect((await ask<FoundValues>(dataset, question)).values.length).toBeGreaterThan(narrowed.values.length);
});

test('a column that is not known any more is told', async () => {
  const dataset = await datasetOffering(() => choicesOf({ field: 'gone' }));
  const question: Question = { kind: 'choices', parameter: parameterIn(dataset, 'apiary'), search: '' };
  const { status, body } = await server.analyst.ask<{ type: string }>('POST', '/answers', {
    dataset: dataset.id,
    revision: dataset.revision,
    values: {},
    question,
  });
  expect([status, body.type]).toEqual([422, 'choices-gone']);
});
