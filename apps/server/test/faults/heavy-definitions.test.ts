import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Edit } from '@cendra/core';
import { addStepAfter } from '@cendra/core';
import { Threads } from '../../src/planning/threads';
import type { DatasetBody, Person, ProblemBody, RunBody } from '../support/cendra';
import { Cendra, rowsOf, run } from '../support/cendra';
import { folderFor, unique } from '../support/cluster';
import { datasetOf, demoSource, edit } from '../support/datasets';

/** Definitions made to keep the server busy are refused, or worked out beside everything else. */

let cendra: Cendra;
let analyst: Person;
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
});
afterAll(() => cendra.stop());

/** Each `nullif` writes its operand twice: twelve in one another come to 20 000 operations written out. */
const nested = (times: number, inner: string): string => (times === 0 ? inner : nested(times - 1, `nullif(${inner}, 3)`));

function calculating({ definition }: DatasetBody, fields: number): Edit {
  const after = definition.steps.at(-1)?.id ?? '';
  return addStepAfter(definition, after, {
    id: unique('step'),
    kind: 'calculate',
    name: '',
    off: false,
    inputs: [after],
    fields: Array.from({ length: fields }, (_each, at) => ({
      id: `f${at}`,
      name: `f${at}`,
      expression: { text: nested(12, 'kilos'), refs: [] },
    })),
  });
}

const heavyDataset = async (fields: number) => {
  const dataset = await datasetOf(analyst, await demoSource(analyst), 'harvests', 'coop', ['id', 'kilos']);
  return edit(analyst, dataset, calculating(dataset, fields));
};

test('a definition that comes to too much is refused at its place, and nobody waits for it', async () => {
  const dataset = await heavyDataset(190);
  const refused = await analyst.ask<ProblemBody>('POST', '/runs', {
    dataset: dataset.id,
    revision: dataset.revision,
    step: dataset.definition.steps.at(-1)?.id,
    size: 'head',
    slot: 'rows',
    values: {},
  });
  expect([refused.status, refused.body.problems[0]?.code]).toEqual([422, 'definition-too-large']);
});

test('a large definition runs, and others are answered while it is worked out', async () => {
  const dataset = await heavyDataset(80);
  let working = true;
  const made = run(analyst, dataset, 'head').finally(() => (working = false));
  let answered = 0;
  while (working) {
    await analyst.get('/datasets');
    answered++;
  }
  const done: RunBody = await made;
  expect(done.state).toBe('done');
  // One after the other: where the server stood still for it, one or two.
  expect(answered).toBeGreaterThan(10);
  const [row] = await rowsOf(analyst, done.result?.id ?? '', 'offset=0&limit=1');
  expect(new Set(row?.slice(3)).size).toBe(1);
});

test('a dataset near the limit of its size is edited, read and refused like any other', async () => {
  const dataset = await datasetOf(analyst, await demoSource(analyst), 'harvests', 'coop', ['id', 'kilos']);
  const after = dataset.definition.steps.at(-1)?.id ?? '';
  const texts = Array.from({ length: 190 }, (_each, at) => `kilos > ${at} -- ${'bees '.repeat(1_900)}`);
  const clauses = texts.map((text, at) => ({ id: `c${at}`, kind: 'expression' as const, off: false, expression: { text, refs: [] } }));
  const step = {
    id: unique('step'),
    kind: 'criteria' as const,
    name: '',
    off: false,
    inputs: [after],
    head: 'every one' as const,
    clauses,
  };
  const large = await edit(analyst, dataset, addStepAfter(dataset.definition, after, step));
  expect(large.definition.steps.at(-1)).toEqual(step);
  expect((await analyst.get<DatasetBody>(`/datasets/${dataset.id}?revision=1`)).definition.steps).toHaveLength(1);
  const title = (from: string): Edit => ({ kind: 'set title', from, to: 'Harvests, thoroughly' });
  const ask = (from: string) =>
    analyst.ask<ProblemBody>('POST', `/datasets/${dataset.id}/edits`, {
      editId: unique('edit'),
      baseRevision: large.revision,
      edits: [title(from)],
    });
  const refused = await ask('Another title');
  expect([refused.status, refused.body.problems[0]?.code]).toEqual([409, 'edit-conflict']);
  expect((await ask(large.definition.title)).status).toBe(201);
});

test('fields stand on one another as deep as engines plan in reasonable time, and no deeper', async () => {
  const chain = async (length: number) => {
    const dataset = await datasetOf(analyst, await demoSource(analyst), 'harvests', 'coop', ['id', 'kilos']);
    const after = dataset.definition.steps.at(-1)?.id ?? '';
    const fields = Array.from({ length }, (_each, at) => ({
      id: `f${at}`,
      name: `f${at}`,
      expression: { text: at === 0 ? 'kilos + 1' : `f${at - 1} + 1`, refs: [] },
    }));
    const step = { id: unique('step'), kind: 'calculate' as const, name: '', off: false, inputs: [after], fields };
    return edit(analyst, dataset, addStepAfter(dataset.definition, after, step));
  };
  const deep = await run(analyst, await chain(100), 'head');
  const [row] = await rowsOf(analyst, deep.result?.id ?? '', 'offset=0&limit=1');
  expect(Number(row?.at(-1)) - Number(row?.[2])).toBeCloseTo(100, 6);
  const deeper = await chain(101);
  const refused = await analyst.ask<ProblemBody>('POST', '/runs', {
    dataset: deeper.id,
    revision: deeper.revision,
    step: deeper.definition.steps.at(-1)?.id,
    size: 'head',
    slot: 'rows',
    values: {},
  });
  expect([refused.status, refused.body.problems[0]?.code]).toEqual([422, 'fields-too-deep']);
});

test('what takes longer than its deadline is ended, and the next piece of work is done', async () => {
  const program = join(folderFor('threads'), 'thread.cjs');
  writeFileSync(
    program,
    `require('node:worker_threads').parentPort.on('message', ({ id, given }) => {
       while (given.forever) ;
       require('node:worker_threads').parentPort.postMessage({ id, say: 'answer', answer: 'done' });
     });`,
  );
  const threads = new Threads(program, 1_500);
  const never = new AbortController().signal;
  const begin = (id: number, given: object) => threads.with(id, never, (say) => say({ id, say: 'begin', work: 'outline', given }));
  try {
    await expect(begin(1, { forever: true })).rejects.toMatchObject({ problems: [{ code: 'planning-too-long' }] });
    expect(await begin(2, {})).toEqual({ id: 2, say: 'answer', answer: 'done' });
  } finally {
    threads.stop();
  }
});
