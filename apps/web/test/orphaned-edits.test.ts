import type { Batch } from '../src/bench/bench-slice';
import { takeOrphaned } from '../src/bench/orphaned-edits';

/** Edits a tab had not sent when it was closed: the same person finds them again, and nobody else. */

const batch = (editId: string): Batch => ({ editId, edits: [{ kind: 'set title', from: 'A', to: editId }] }) as unknown as Batch;
const storage = new Map<string, string>();

beforeEach(() => {
  storage.clear();
  Object.assign(globalThis, {
    localStorage: {
      get length() {
        return storage.size;
      },
      key: (at: number) => [...storage.keys()][at] ?? null,
      getItem: (key: string) => storage.get(key) ?? null,
      setItem: (key: string, value: string) => storage.set(key, value),
      removeItem: (key: string) => storage.delete(key),
    },
    sessionStorage: { getItem: () => 'mine', setItem: () => undefined },
  });
  const locks = { query: () => Promise.resolve({ held: [{ name: 'cendra.tab.mine' }, { name: 'cendra.tab.living' }] }) };
  Object.defineProperty(globalThis, 'navigator', { configurable: true, value: { locks } });
});

const left = (person: string, tab: string, dataset: string, ...batches: Batch[]) =>
  storage.set(`cendra.pending.${person}.${tab}.${dataset}`, JSON.stringify(batches));

test('those of a closed tab are taken once', async () => {
  left('ana', 'closed', 'd1', batch('e1'), batch('e2'));
  expect((await takeOrphaned('ana', 'd1')).map((each) => each.editId)).toEqual(['e1', 'e2']);
  expect(await takeOrphaned('ana', 'd1')).toEqual([]);
});

test('those of another person, of another dataset, of a tab that lives and of this one stay where they are', async () => {
  left('ben', 'closed', 'd1', batch('of ben'));
  left('ana', 'closed', 'd2', batch('of another dataset'));
  left('ana', 'living', 'd1', batch('of a tab that lives'));
  left('ana', 'mine', 'd1', batch('of this tab'));
  expect(await takeOrphaned('ana', 'd1')).toEqual([]);
  expect(storage.size).toBe(4);
});

test('what cannot be read is dropped, and the rest is taken', async () => {
  storage.set('cendra.pending.ana.broken.d1', '{');
  left('ana', 'closed', 'd1', batch('e1'));
  expect((await takeOrphaned('ana', 'd1')).map((each) => each.editId)).toEqual(['e1']);
});
