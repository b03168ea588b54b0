import { mkdirSync } from 'node:fs';
import type { Definition } from '@cendra/core';
import { emptyDefinition, PLAIN_LAYOUT } from '@cendra/core';
import type { HeldDatasetOf } from '../src/datasets';
import type { Engine } from '../src/engine';
import { ResultStore } from '../src/engine';
import { LIMITS } from '../src/limits';
import type { Person } from '../src/people';
import { Planner } from '../src/planning';
import type { RunRecordsService } from '../src/runs/run-records.service';
import { LayoutReading } from '../src/proof/layout-reading.service';
import { ProofService } from '../src/proof/proof.service';
import { ResultRows } from '../src/proof/result-rows.service';
import type { AnswersService } from '../src/runs/answers.service';
import type { Result } from '../src/runs/result.entity';
import { table } from './support/generated';
import { folderFor } from './support/cluster';

/** Proofs take turns: nobody's keep everybody else's waiting, and one that nobody waits for is stopped. */

const settle = () => new Promise((done) => setImmediate(done));
const person = (id: string) => ({ id, role: 'analyst' }) as Person;
const never = new AbortController().signal;

/** An engine that is busy with every proof until it is stopped. */
function busyEngine() {
  const busy: AbortSignal[] = [];
  const engine = {
    do: ({ work }: { readonly work: string }, signal: AbortSignal = never) => {
      if (work !== 'combine') return Promise.resolve(null);
      busy.push(signal);
      return new Promise((_done, fail) => signal.addEventListener('abort', () => fail(new Error('stopped')), { once: true }));
    },
  };
  return { engine: engine as unknown as Engine, busy, atWork: () => busy.filter((each) => !each.aborted).length };
}

const store = new ResultStore(folderFor('turns'));
const result = {
  id: 'r',
  columns: [{ id: 'n', name: 'n', type: { kind: 'whole' } }],
  misfits: {},
} as unknown as Result;
mkdirSync(store.folder('r'), { recursive: true });

/** No mark asks with a parameter, so no run is asked for its values, and no group is one without rows. */
const noRecords = {} as RunRecordsService;
const noAnswers = {} as AnswersService;

/** Each lays the rows out differently, so that each is a proof of its own. */
function held(totals: number): HeldDatasetOf {
  const aggregates = ['sum', 'average', 'least', 'greatest', 'count'] as const;
  const layout = { ...PLAIN_LAYOUT, totals: aggregates.slice(0, totals).map((aggregate) => ({ field: 'n', aggregate })) };
  const sheet = [{ field: 'n', role: 'measure' as const }];
  const definition: Definition = {
    ...emptyDefinition('Turns'),
    steps: [{ ...table, taken: ['n'] } as never],
    result: 't',
    sheet,
    proof: layout,
  };
  return { definition } as HeldDatasetOf;
}

test('one person’s proofs leave room for another’s, and who goes away stops theirs', async () => {
  const { engine, busy, atWork } = busyEngine();
  const rows = new ResultRows(store, engine);
  const layouts = new LayoutReading(new Planner(), noRecords, noAnswers, rows);
  const proofs = new ProofService(store, rows, layouts, engine, engine);
  const stop = new AbortController();
  const mine = [1, 2, 3, 4].map((totals) => proofs.of(person('ana'), result, held(totals), stop.signal));
  const ended = Promise.allSettled(mine);
  await settle();
  expect(atWork()).toBe(LIMITS.proofsPerPerson.value);

  const leaves = new AbortController();
  const theirs = proofs.of(person('ben'), result, held(5), leaves.signal);
  await settle();
  expect(atWork()).toBe(LIMITS.proofsPerPerson.value + 1);
  leaves.abort();
  await expect(theirs).rejects.toThrow('stopped');
  expect(busy.at(-1)?.aborted).toBe(true);

  stop.abort();
  expect((await ended).map((each) => each.status)).toEqual(Array(4).fill('rejected'));
  expect(atWork()).toBe(0);
});
