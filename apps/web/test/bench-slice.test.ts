import type { Definition, Edit } from '@cendra/core';
import { emptyDefinition, ProblemError } from '@cendra/core';
import type { OpenBench } from '../src/bench/bench-slice';
import { datasetHeard } from '../src/bench/dataset-heard';
import { benchReducer, confirmed, dropped, edited, opened, redid, refused, retried, undid } from '../src/bench/bench-slice';

/** What the bench keeps of a dataset: saved, pending and shown, and what it does when they part ways. */

const kept = new Map<string, string>();
beforeEach(() => {
  kept.clear();
  Object.assign(globalThis, {
    localStorage: {
      getItem: (key: string) => kept.get(key) ?? null,
      setItem: (key: string, value: string) => kept.set(key, value),
      removeItem: (key: string) => kept.delete(key),
    },
    sessionStorage: { getItem: () => 'tab1', setItem: () => undefined },
  });
});

const definition = (title: string): Definition => emptyDefinition(title);
const rename = (from: string, to: string): Edit => ({ kind: 'set title', from, to });
const saved = (revision: number, title: string) => ({ id: 'd', revision, definition: definition(title), savedAt: '2025-06-01T10:00:00Z' });
const openedAs = (given: ReturnType<typeof saved>, owner = 'ana') => opened({ ...given, owner });
type Action = Parameters<typeof benchReducer>[1];

function after(...actions: Action[]): OpenBench {
  const state = actions.reduce<ReturnType<typeof benchReducer>>((current, action) => benchReducer(current, action), {});
  const bench = (state as Record<string, OpenBench>).d;
  if (!bench) throw new Error('the dataset is not open');
  return bench;
}

const open = openedAs(saved(1, 'A'));
const toB = edited({ id: 'd', batch: { editId: 'e1', edits: [rename('A', 'B')] } });

test('an edit shows at once and waits to be saved', () => {
  const bench = after(open, toB);
  expect([bench.definition.title, bench.saved.definition.title, bench.pending.length]).toEqual(['B', 'A', 1]);
});

test('what changes nothing waits for nothing and ends nothing that could be redone', () => {
  const bench = after(open, toB, undid({ id: 'd', editId: 'u1' }), edited({ id: 'd', batch: { editId: 'e2', edits: [] } }));
  expect([bench.pending.map((each) => each.editId), bench.undone.length]).toEqual([['e1', 'u1'], 1]);
});

test('a confirmed edit is saved and no longer waits', () => {
  const bench = after(open, toB, confirmed({ ...saved(2, 'B'), editId: 'e1' }));
  expect([bench.definition.title, bench.saved.revision, bench.pending]).toEqual(['B', 2, []]);
});

test('an answer that comes late does not take the bench back', () => {
  const bench = after(open, toB, openedAs(saved(5, 'B')), confirmed({ ...saved(2, 'B'), editId: 'e1' }));
  expect(bench.saved.revision).toBe(5);
});

test('undo appends the inverse, redo the edit again, and a new edit ends what could be redone', () => {
  const undone = after(open, toB, undid({ id: 'd', editId: 'e2' }));
  expect([undone.definition.title, undone.pending.length, undone.undone.length]).toEqual(['A', 2, 1]);
  kept.clear();
  const redone = after(open, toB, undid({ id: 'd', editId: 'e2' }), redid({ id: 'd', editId: 'e3' }));
  expect([redone.definition.title, redone.undone.length]).toEqual(['B', 0]);
  kept.clear();
  const other = after(open, toB, undid({ id: 'd', editId: 'e2' }), edited({ id: 'd', batch: { editId: 'e4', edits: [rename('A', 'C')] } }));
  expect([other.definition.title, other.undone.length]).toEqual(['C', 0]);
});

test('with nothing to undo or redo, nothing happens', () => {
  expect(after(open, undid({ id: 'd', editId: 'x' }), redid({ id: 'd', editId: 'y' })).definition.title).toBe('A');
});

test('what others saved is taken in under the pending edits where both fit', () => {
  const theirs = {
    ...saved(2, 'A'),
    definition: {
      ...definition('A'),
      parameters: [
        { id: 'p', name: 'p', type: 'text' as const, takes: 'one' as const, leftBlank: 'matches empty' as const, startsAs: [], hint: '' },
      ],
    },
  };
  const bench = after(open, toB, opened({ ...theirs, owner: 'ana' }));
  expect([bench.definition.title, bench.definition.parameters.length, bench.conflict]).toEqual(['B', 1, null]);
});

describe('when both changed the same place', () => {
  const met = [open, toB, openedAs(saved(2, 'Theirs'))];

  test('theirs is shown, and the pending edit becomes the conflict instead of being lost', () => {
    const bench = after(...met);
    expect([bench.definition.title, bench.conflict?.batch.editId, bench.pending.length]).toEqual(['Theirs', 'e1', 1]);
    expect(bench.conflict?.problems[0]?.code).toBe('edit-conflict');
  });

  test('keeping theirs drops the edit', () => {
    const bench = after(...met, dropped({ id: 'd', editId: 'e1' }));
    expect([bench.definition.title, bench.conflict, bench.pending, bench.done]).toEqual(['Theirs', null, [], []]);
  });

  test('keeping mine states the same wish against theirs', () => {
    const bench = after(...met, retried({ id: 'd', editId: 'e1', batch: { editId: 'e5', edits: [rename('Theirs', 'B')] } }));
    expect([bench.definition.title, bench.conflict, bench.pending.map((each) => each.editId)]).toEqual(['B', null, ['e5']]);
  });

  test('a refusal of the server is a conflict too', () => {
    const { problems } = new ProblemError([{ code: 'source-missing', severity: 'error', message: 'You lack a source.', place: {} }]);
    const bench = after(open, toB, refused({ id: 'd', editId: 'e1', problems }));
    expect(bench.conflict?.problems).toEqual(problems);
  });
});

test('unsent edits are kept in the browser until they are saved, and come back after a reload', () => {
  after(open, toB);
  expect(kept.get('cendra.pending.ana.tab1.d')).toContain('e1');
  expect(after(open).definition.title).toBe('B');
  after(open, confirmed({ ...saved(2, 'B'), editId: 'e1' }));
  expect(kept.has('cendra.pending.ana.tab1.d')).toBe(false);
});

test('news of a revision is remembered, for the newest to be fetched', () => {
  expect(after(open, datasetHeard({ id: 'd', revision: 7 }), datasetHeard({ id: 'd', revision: 3 })).heard).toBe(7);
});
