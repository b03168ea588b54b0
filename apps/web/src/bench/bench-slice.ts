import { createSlice, original } from '@reduxjs/toolkit';
import type { PayloadAction } from '@reduxjs/toolkit';
import type { Definition, Edit, Problem } from '@cendra/core';
import { applyEdits, invertEdits, ProblemError } from '@cendra/core';
import { tabId } from '../app/tab';
import { datasetHeard } from './dataset-heard';

/** Edits that belong together: one revision, one undo. */
export interface Batch {
  readonly editId: string;
  readonly edits: readonly Edit[];
  /** The revision they take back. */
  readonly restores?: number;
  /** The saved revision they were made on, or are part of: what is newer was saved meanwhile. */
  readonly on?: number;
}

export interface OpenBench {
  readonly id: string;
  /** The person whose edits these are. */
  readonly owner: string;
  readonly saved: { readonly revision: number; readonly definition: Definition; readonly savedAt: string };
  /** Not confirmed by the server yet, oldest first. */
  readonly pending: readonly Batch[];
  /** Saved with the pending edits applied: what the screen shows. */
  readonly definition: Definition;
  /** The undo list belongs to this tab, also over a reload. */
  readonly done: readonly Batch[];
  readonly undone: readonly Batch[];
  /** A pending batch that the server's newest state does not take. */
  readonly conflict: { readonly batch: Batch; readonly problems: readonly Problem[] } | null;
  /** The newest revision heard of. */
  readonly heard: number;
  readonly saving: 'saved' | 'saving' | 'waiting for the server' | 'signed out';
}

interface Saved {
  readonly id: string;
  readonly revision: number;
  readonly definition: Definition;
  readonly savedAt: string;
}

/** Unsent edits belong to a person and a tab: another person who signs in here does not send them, nor does a tab lose another's. */
const pendingKey = ({ id, owner }: Pick<OpenBench, 'id' | 'owner'>) => `cendra.pending.${owner}.${tabId()}.${id}`;

/** Unsent edits survive a reload; they are in the browser's own storage until the server has them. */
function remember(bench: OpenBench): OpenBench {
  try {
    if (bench.pending.length === 0) localStorage.removeItem(pendingKey(bench));
    else localStorage.setItem(pendingKey(bench), JSON.stringify(bench.pending));
    const { done, undone } = bench;
    sessionStorage.setItem(undoKey(bench), JSON.stringify({ done: done.slice(-MOST_UNDONE), undone: undone.slice(-MOST_UNDONE) }));
  } catch {
    // A full or closed storage loses only the protection against a reload, not the edit.
  }
  return bench;
}

const undoKey = ({ id, owner }: Pick<OpenBench, 'id' | 'owner'>) => `cendra.undo.${owner}.${id}`;
/** So many edits can be taken back after a reload. */
const MOST_UNDONE = 100;

function undoList(of: Pick<OpenBench, 'id' | 'owner'>): Pick<OpenBench, 'done' | 'undone'> {
  try {
    const { done, undone } = JSON.parse(sessionStorage.getItem(undoKey(of)) ?? '') as Pick<OpenBench, 'done' | 'undone'>;
    return { done, undone };
  } catch {
    return { done: [], undone: [] };
  }
}

function remembered(of: Pick<OpenBench, 'id' | 'owner'>): readonly Batch[] {
  try {
    return JSON.parse(localStorage.getItem(pendingKey(of)) ?? '[]') as readonly Batch[];
  } catch {
    return [];
  }
}

/** The server's answer to a batch; without a definition it is the base with the batch applied, which this tab has. */
interface Confirmed extends Omit<Saved, 'definition'> {
  readonly editId: string;
  readonly definition: Definition | null;
}

function savedAfter(bench: OpenBench, editId: string, { definition, ...answered }: Omit<Confirmed, 'editId'>): Saved {
  const batch = bench.pending.find((each) => each.editId === editId);
  // An answer that was overtaken by newer news is not what is saved any more.
  const newer = bench.saved.revision >= answered.revision;
  const own = definition ?? (newer || !batch ? bench.saved.definition : applyEdits(bench.saved.definition, batch.edits));
  return { ...answered, definition: own };
}

/**
 * The definition with pending edits on it. The first batch that does not fit any more becomes the conflict; what was
 * done after it and fits without it is shown, and waits.
 */
function rebase(bench: OpenBench): OpenBench {
  let definition = bench.saved.definition;
  let conflict: OpenBench['conflict'] = null;
  for (const batch of bench.pending) {
    try {
      definition = applyEdits(definition, batch.edits);
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      conflict ??= { batch, problems: error.problems };
    }
  }
  return remember({ ...bench, definition, conflict });
}

const madeOn = ({ saved }: OpenBench, batch: Batch): Batch => ({ on: saved.revision, ...batch });

export type Benches = Record<string, OpenBench>;

/** Definitions are read-only documents that are replaced, never written into, so drafts are bypassed. */
const put = (state: unknown, bench: OpenBench) => {
  (state as Benches)[bench.id] = bench;
};

const benchOf = (state: unknown, id: string): OpenBench | undefined => {
  const draft = (state as Benches)[id];
  return draft && ((original(draft as object) as OpenBench | undefined) ?? draft);
};

const change = (state: unknown, id: string, make: (bench: OpenBench) => OpenBench) => {
  const bench = benchOf(state, id);
  if (bench) put(state, make(bench));
};

const slice = createSlice({
  name: 'bench',
  initialState: {} as Benches,
  reducers: {
    opened: (state, { payload }: PayloadAction<Saved & { owner: string }>) => {
      const { id, owner, ...saved } = payload;
      // Edits of somebody who was signed in here before stay theirs.
      const known = benchOf(state, id)?.owner === owner ? benchOf(state, id) : undefined;
      if (known && known.saved.revision >= saved.revision) return;
      const base: OpenBench = known ?? {
        id,
        owner,
        saved,
        pending: remembered({ id, owner }),
        definition: saved.definition,
        ...undoList({ id, owner }),
        conflict: null,
        heard: saved.revision,
        saving: 'saved',
      };
      put(state, rebase({ ...base, saved, heard: Math.max(base.heard, saved.revision) }));
    },
    /** Takes over what a tab that is gone had not sent yet, behind one's own. */
    adopted: (state, { payload: { id, batches } }: PayloadAction<{ id: string; batches: readonly Batch[] }>) => {
      change(state, id, (bench) => {
        const own = new Set(bench.pending.map((each) => each.editId));
        return rebase({ ...bench, pending: [...bench.pending, ...batches.filter((each) => !own.has(each.editId))] });
      });
    },
    edited: (state, { payload: { id, batch } }: PayloadAction<{ id: string; batch: Batch }>) => {
      change(state, id, (bench) => {
        // What is chosen again changes nothing, and there is nothing to save of it.
        if (batch.edits.length === 0) return bench;
        const mine = madeOn(bench, batch);
        return rebase({ ...bench, pending: [...bench.pending, mine], done: [...bench.done, mine], undone: [] });
      });
    },
    undid: (state, { payload: { id, editId } }: PayloadAction<{ id: string; editId: string }>) => {
      change(state, id, (bench) => {
        const last = bench.done[bench.done.length - 1];
        if (!last || bench.conflict) return bench;
        const inverse = madeOn(bench, { ...(last.on === undefined ? {} : { on: last.on }), editId, edits: invertEdits(last.edits) });
        return rebase({ ...bench, pending: [...bench.pending, inverse], done: bench.done.slice(0, -1), undone: [...bench.undone, last] });
      });
    },
    redid: (state, { payload: { id, editId } }: PayloadAction<{ id: string; editId: string }>) => {
      change(state, id, (bench) => {
        const last = bench.undone[bench.undone.length - 1];
        if (!last || bench.conflict) return bench;
        const again = madeOn(bench, { editId, edits: last.edits });
        return rebase({ ...bench, pending: [...bench.pending, again], done: [...bench.done, again], undone: bench.undone.slice(0, -1) });
      });
    },
    /** The server has taken a batch; its answer holds the newest definition, others' edits included. */
    confirmed: (state, { payload: { editId, ...answered } }: PayloadAction<Confirmed>) => {
      change(state, answered.id, (bench) => {
        const saved = savedAfter(bench, editId, answered);
        const pending = bench.pending.filter((each) => each.editId !== editId);
        const newer =
          saved.revision >= bench.saved.revision
            ? { revision: saved.revision, definition: saved.definition, savedAt: saved.savedAt }
            : bench.saved;
        const done = bench.done.map((each) => (each.editId === editId ? { ...each, on: answered.revision } : each));
        return rebase({ ...bench, pending, done, saved: newer, heard: Math.max(bench.heard, saved.revision), saving: 'saved' });
      });
    },
    /** The server refuses a batch: it is kept and both sides are shown. */
    refused: (
      state,
      { payload: { id, editId, problems } }: PayloadAction<{ id: string; editId: string; problems: readonly Problem[] }>,
    ) => {
      change(state, id, (bench) => {
        const batch = bench.pending.find((each) => each.editId === editId);
        return batch ? { ...bench, conflict: { batch, problems }, saving: 'saved' } : bench;
      });
    },
    /** Gives up a batch in favour of what the server has. */
    dropped: (state, { payload: { id, editId } }: PayloadAction<{ id: string; editId: string }>) => {
      change(state, id, (bench) => {
        const without = (batches: readonly Batch[]) => batches.filter((each) => each.editId !== editId);
        return rebase({ ...bench, pending: without(bench.pending), done: without(bench.done) });
      });
    },
    /** Takes the batch's wish again, stated against what the server has. */
    retried: (state, { payload: { id, editId, batch } }: PayloadAction<{ id: string; editId: string; batch: Batch }>) => {
      change(state, id, (bench) => {
        const mine = madeOn(bench, batch);
        const swap = (batches: readonly Batch[]) => batches.map((each) => (each.editId === editId ? mine : each));
        return rebase({ ...bench, pending: swap(bench.pending), done: swap(bench.done) });
      });
    },
    savingIs: (state, { payload: { id, saving } }: PayloadAction<{ id: string; saving: OpenBench['saving'] }>) => {
      change(state, id, (bench) => ({ ...bench, saving }));
    },
  },
  extraReducers: (builder) => {
    builder.addCase(datasetHeard, (state, { payload: { id, revision } }) => {
      change(state, id, (bench) => ({ ...bench, heard: Math.max(bench.heard, revision) }));
    });
  },
});

export const { opened, adopted, edited, undid, redid, confirmed, refused, dropped, retried, savingIs } = slice.actions;
export const benchReducer = slice.reducer;
