import { Redo2, Undo2 } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { NavLink, Outlet, useLocation, useParams } from 'react-router';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { adopted, benchReducer, opened, redid, undid } from '../bench/bench-slice';
import type { Batch, OpenBench } from '../bench/bench-slice';
import { batchWords } from '../bench/history/batch-words';
import { Conflict } from '../bench/conflict';
import { mint } from '../bench/mint';
import { takeOrphaned } from '../bench/orphaned-edits';
import type { DatasetContext } from '../bench/use-bench';
import { savedOf, useSaving } from '../bench/use-saving';
import { Button } from '../ui/button';
import { clock } from '../ui/format';
import { FailureNotice, ProblemLine } from '../ui/notice';
import { Waiting } from '../ui/waiting';
import { TitleField } from '../bench/title-field';
import { takeInBenches, useAppDispatch, useAppSelector } from './store';

takeInBenches(benchReducer);

const NO_TABLES: DatasetContext['known'] = [];
const NO_ROUTINES: DatasetContext['called'] = [];
const NO_VALUES: DatasetContext['lastValues'] = {};

/** Opens one dataset and keeps it saved; its tabs are the views inside. */
export function DatasetFrame() {
  const { id = '' } = useParams();
  const dispatch = useAppDispatch();
  const dataset = api.useDatasetsOneQuery({ id });
  const tables = api.useDatasetsTablesQuery({ id }, { skip: !dataset.data?.definition || dataset.data.withoutValues });
  const routines = api.useDatasetsRoutinesQuery({ id }, { skip: !dataset.data?.definition || dataset.data.withoutValues });
  const lastValues = api.useLastValuesAllQuery({ id }, { skip: !dataset.data?.definition || dataset.data.withoutValues });
  const owner = api.usePeopleMeQuery().data?.id;
  const shown = useAppSelector((state) => state.bench?.[id]);
  const bench = shown?.owner === owner ? shown : undefined;
  useSaving(id);
  useAskedAgain(read(bench, 'table'), tables.isSuccess ? tables.refetch : undefined);
  useAskedAgain(read(bench, 'procedure'), routines.isSuccess ? routines.refetch : undefined);
  useEffect(() => {
    if (!dataset.data?.definition || owner === undefined) return;
    dispatch(opened(savedOf(dataset.data, owner)));
    void takeOrphaned(owner, id).then((batches) => batches.length > 0 && dispatch(adopted({ id, batches })));
  }, [dataset.data, owner, id, dispatch]);

  const failure = failureOf(dataset.error);
  if (failure && !bench)
    return (
      <main className="p-6">
        <FailureNotice failure={failure} />
      </main>
    );
  if (dataset.data && dataset.data.problems.length > 0) return <Unreadable problems={dataset.data.problems} />;
  if (!bench || !dataset.data || lastValues.isLoading)
    return (
      <main className="p-6">
        <Waiting what="Opening the dataset" />
      </main>
    );
  const context: DatasetContext = {
    id,
    known: tables.data ?? NO_TABLES,
    called: routines.data ?? NO_ROUTINES,
    lastValues: lastValues.data?.values ?? NO_VALUES,
    withoutValues: dataset.data.withoutValues,
  };
  return (
    <div className="flex h-full flex-col">
      <DatasetHeader bench={bench} locked={context.withoutValues} />
      {bench.conflict && <Conflict bench={bench} />}
      <div className="min-h-0 flex-1">
        <Outlet context={context} />
      </div>
    </div>
  );
}

/** The tables a dataset as it is saved reads, or the functions it calls. */
function read(bench: OpenBench | undefined, kind: 'table' | 'procedure'): string {
  const steps = bench?.saved.definition.steps ?? [];
  return JSON.stringify(
    steps.flatMap((each) => {
      if (each.kind === 'table' && kind === 'table') return [[each.source, each.schema, each.table]];
      return each.kind === 'procedure' && kind === 'procedure' ? [[each.source, each.signature]] : [];
    }),
  );
}

/** What is known of a source's things is asked again when the dataset as it is saved uses other ones. */
function useAskedAgain(used: string, refetch: (() => unknown) | undefined): void {
  const known = useRef(used);
  useEffect(() => {
    if (!refetch || known.current === used) return;
    known.current = used;
    refetch();
  }, [used, refetch]);
}

function Unreadable({ problems }: { readonly problems: readonly Parameters<typeof ProblemLine>[0]['problem'][] }) {
  return (
    <main className="space-y-2 p-6" role="alert">
      <h1 className="font-serif text-title">This dataset cannot be opened here</h1>
      {problems.map((problem, index) => (
        <ProblemLine key={index} problem={problem} />
      ))}
      <p className="text-ink-soft">It is stored as it was; nothing was changed.</p>
    </main>
  );
}

function DatasetHeader({ bench, locked }: { readonly bench: OpenBench; readonly locked: boolean }) {
  const dispatch = useAppDispatch();
  const { id } = bench;
  const last = bench.done[bench.done.length - 1];
  const ahead = bench.undone[bench.undone.length - 1];
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement;
      if (typing || !(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return;
      event.preventDefault();
      dispatch(event.shiftKey ? redid({ id, editId: mint() }) : undid({ id, editId: mint() }));
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [dispatch, id]);
  const words = (batch: Batch) => batchWords(batch, bench.definition);
  return (
    <div className="flex h-11 shrink-0 items-center gap-3 border-b px-3 whitespace-nowrap">
      <TitleField bench={bench} locked={locked} />
      <SavedState bench={bench} />
      <div className="ml-auto flex shrink-0 items-center gap-1">
        <Button
          kind="quiet"
          small
          icon={Undo2}
          disabled={!last || bench.conflict !== null}
          title={last && `Undo: ${words(last)}`}
          onClick={() => dispatch(undid({ id, editId: mint() }))}
        >
          <span className="max-lg:sr-only">Undo</span>
        </Button>
        <Button
          kind="quiet"
          small
          icon={Redo2}
          disabled={!ahead || bench.conflict !== null}
          title={ahead && `Redo: ${words(ahead)}`}
          onClick={() => dispatch(redid({ id, editId: mint() }))}
        >
          <span className="max-lg:sr-only">Redo</span>
        </Button>
        <nav aria-label="Dataset" className="ml-2 flex">
          <Tab to="bench">Bench</Tab>
          <Tab to="fields">Fields</Tab>
          <Tab to="proof">Proof</Tab>
        </nav>
      </div>
    </div>
  );
}

/** Keeps step and parameter values in the address when the view changes. */
function Tab({ to, children }: { readonly to: string; readonly children: string }) {
  const { search } = useLocation();
  return (
    <NavLink
      to={{ pathname: to, search }}
      className={({ isActive }) =>
        `border-b-2 px-3 py-2.5 max-md:px-2 ${isActive ? 'border-ember font-medium' : 'border-transparent text-ink-soft hover:text-ink'}`
      }
    >
      {children}
    </NavLink>
  );
}

function SavedState({ bench }: { readonly bench: OpenBench }) {
  const [, again] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => again((count) => count + 1), 30_000);
    return () => clearInterval(timer);
  }, []);
  const unsent = bench.pending.length;
  const words =
    bench.saving === 'saved' && unsent === 0
      ? `saved ${clock(bench.saved.savedAt)}`
      : bench.saving === 'waiting for the server'
        ? `${unsent} not saved yet, the server does not answer`
        : bench.saving === 'signed out'
          ? `${unsent} not saved, sign in again`
          : 'saving';
  return (
    <span
      role="status"
      className={`figures min-w-0 truncate text-meta max-md:max-w-24 ${unsent > 0 && bench.saving !== 'saving' ? 'text-amber' : 'text-ink-faint'}`}
    >
      draft r{bench.saved.revision}, {words}
    </span>
  );
}
