import { createSlice, original } from '@reduxjs/toolkit';
import type { PayloadAction } from '@reduxjs/toolkit';
import type { Definition, Edit, Problem } from '@cendra/core';
import { applyEdits, invertEdits, ProblemError } from '@cendra/core';

/** Edits that belong together: one revision, one undo. */
export interface Batch {
  readonly editId: string;
  readonly edits: readonly Edit[];
  /** The revision they take back. */
  readonly restores?: number;
}

export interface OpenBench {
  readonly id: string;
  readonly saved: { readonly revision: number; readonly definition: Definition; readonly savedAt: string };
  /** Not confirmed by the server yet, oldest first. */
  readonly pending: readonly Batch[];
  /** Saved with the pending edits applied: what the screen shows. */
  readonly definition: Definition;
  /** The undo list belongs to this tab. */
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

const pendingKey = (id: string) => `cendra.pending.${id}`;

/** Unsent edits survive a reload; they are in the browser's own storage until the server has them. */
function remember(bench: OpenBench): OpenBench {
  try {
    if (bench.pending.length === 0) localStorage.removeItem(pendingKey(bench.id));
    else localStorage.setItem(pendingKey(bench.id), JSON.stringify(bench.pending));
  } catch {
    // A full or closed storage loses only the protection against a reload, not the edit.
  }
  return bench;
}

function remembered(id: string): readonly Batch[] {
  try {
    return JSON.parse(localStorage.getItem(pendingKey(id)) ?? '[]') as readonly Batch[];
  } catch {
    return [];
  }
}

/** The definition with pending edits on it; a batch that does not fit any more becomes the conflict. */
function rebase(bench: OpenBench): OpenBench {
  let definition = bench.saved.definition;
  for (const batch of bench.pending) {
    try {
      definition = applyEdits(definition, batch.edits);
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      return remember({ ...bench, definition, conflict: { batch, problems: error.problems } });
    }
  }
  return remember({ ...bench, definition, conflict: null });
}

type Benches = Record<string, OpenBench>;

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
  initialState: {} as Record<string, OpenBench>,
  reducers: {
    opened: (state, { payload }: PayloadAction<Saved>) => {
      const { id, ...saved } = payload;
      const known = benchOf(state, id);
      if (known && known.saved.revision >= saved.revision) return;
      const base: OpenBench = known ?? {
        id,
        saved,
        pending: remembered(id),
        definition: saved.definition,
        done: [],
        undone: [],
        conflict: null,
        heard: saved.revision,
        saving: 'saved',
      };
      put(state, rebase({ ...base, saved, heard: Math.max(base.heard, saved.revision) }));
    },
    edited: (state, { payload: { id, batch } }: PayloadAction<{ id: string; batch: Batch }>) => {
      change(state, id, (bench) => rebase({ ...bench, pending: [...bench.pending, batch], done: [...bench.done, batch], undone: [] }));
    },
    undid: (state, { payload: { id, editId } }: PayloadAction<{ id: string; editId: string }>) => {
      change(state, id, (bench) => {
        const last = bench.done[bench.done.length - 1];
        if (!last) return bench;
        const inverse = { editId, edits: invertEdits(last.edits) };
        return rebase({ ...bench, pending: [...bench.pending, inverse], done: bench.done.slice(0, -1), undone: [...bench.undone, last] });
      });
    },
    redid: (state, { payload: { id, editId } }: PayloadAction<{ id: string; editId: string }>) => {
      change(state, id, (bench) => {
        const last = bench.undone[bench.undone.length - 1];
        if (!last) return bench;
        const again = { editId, edits: last.edits };
        return rebase({ ...bench, pending: [...bench.pending, again], done: [...bench.done, again], undone: bench.undone.slice(0, -1) });
      });
    },
    /** The server has taken a batch; its answer holds the newest definition, others' edits included. */
    confirmed: (state, { payload: { editId, ...saved } }: PayloadAction<Saved & { editId: string }>) => {
      change(state, saved.id, (bench) => {
        const pending = bench.pending.filter((each) => each.editId !== editId);
        const newer =
          saved.revision >= bench.saved.revision
            ? { revision: saved.revision, definition: saved.definition, savedAt: saved.savedAt }
            : bench.saved;
        return rebase({ ...bench, pending, saved: newer, heard: Math.max(bench.heard, saved.revision), saving: 'saved' });
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
    /** Takes the batch's wish again, now against what the server has. */
    retried: (state, { payload: { id, editId, batch } }: PayloadAction<{ id: string; editId: string; batch: Batch }>) => {
      change(state, id, (bench) => {
        const swap = (batches: readonly Batch[]) => batches.map((each) => (each.editId === editId ? batch : each));
        return rebase({ ...bench, pending: swap(bench.pending), done: swap(bench.done) });
      });
    },
    savingIs: (state, { payload: { id, saving } }: PayloadAction<{ id: string; saving: OpenBench['saving'] }>) => {
      change(state, id, (bench) => ({ ...bench, saving }));
    },
    datasetHeard: (state, { payload: { id, revision } }: PayloadAction<{ id: string; revision: number }>) => {
      change(state, id, (bench) => ({ ...bench, heard: Math.max(bench.heard, revision) }));
    },
  },
});

export const { opened, edited, undid, redid, confirmed, refused, dropped, retried, savingIs, datasetHeard } = slice.actions;
export const benchReducer = slice.reducer;
