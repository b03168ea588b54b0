import { useEffect, useState } from 'react';
import type { RunState } from '../../runs/use-run';
import { RunProgress, RunStopped } from '../../runs/progress';
import { isOpen } from '../../runs/runs-slice';
import { Sample } from '../../sources/table-view';
import { arrangeViewEdits, knownBy, ofKind, subTrail } from '@cendra/core';
import type { ResultDto, SourceDto } from '../../api';
import { api } from '../../api';
import { Button } from '../../ui/button';
import type { Cell } from '../../ui/cell';
import { clock, grouped } from '../../ui/format';
import { EmptyState, FailureNotice } from '../../ui/notice';
import { Said } from '../../ui/said';
import { WORDS } from '../../ui/words';
import type { Following } from '../follow/use-follow';
import { ExcludingNotice } from '../criteria/excluding-notice';
import { RowsGrid } from './rows-grid';
import type { WholeTextOf } from './whole-cell';
import { useRowsView } from './use-rows-view';
import type { RowsView } from './view';
import { shownColumns } from './view';
import { mint } from '../mint';
import type { Bench } from '../use-bench';
import type { HeadRun, MadeOf } from '../use-head-run';

interface RowsPanelProps {
  readonly bench: Bench;
  readonly run: RunState;
  readonly head: HeadRun;
}

interface FollowableRowsProps extends RowsPanelProps {
  readonly onFollow: Following['followRow'];
}

/** The rows after the selected step, under a line that says exactly what they are. Old rows are never shown as current. */
export function RowsPanel({ bench, run, head, onFollow }: FollowableRowsProps) {
  const { selected } = bench;
  const { view, setView } = useRowsView(`${bench.id}/${selected?.step.id ?? ''}`);
  const sameStep = run.shown?.step === selected?.step.id;
  const needAll = useNeedAll(run, head);
  const shown = sameStep && head.obstacle !== 'nothing taken' && head.obstacle !== 'without source' ? run.shown : undefined;
  return (
    <section aria-label="Rows" className="flex h-full flex-col">
      <div className="flex min-h-8 shrink-0 flex-wrap items-center gap-x-3 border-b bg-panel px-3 py-1">
        {shown ? (
          <Stamp bench={bench} run={run} head={head} />
        ) : (
          <span className="text-ink-soft">{selected ? `After ${selected.title}` : ''}</span>
        )}
        <div className="ml-auto flex items-center gap-2">
          {head.waits && <span className="text-amber">the last run took its time, so this waits for Ctrl+Enter</span>}
          {shown && <ViewNote bench={bench} view={view} result={shown.inspection === null ? shown.result : undefined} onView={setView} />}
          {run.run && isOpen(run.run) && <RunProgress run={run.run} onStop={run.stop} />}
          <RunStopped run={run.run} shown={shown} />
          {shown?.result &&
            shown.inspection === null &&
            !shown.result.complete &&
            shown.result.cut === null &&
            head.obstacle === undefined &&
            (tooMany(head.counts[shown.step]?.rows, shown.mostRows) ? (
              <span className="text-amber">more rows than the {grouped(String(shown.mostRows))} a result may have</span>
            ) : (
              <Button small onClick={() => head.run('full')} disabled={run.open}>
                {shortened(shown.result, head.counts[shown.step]?.rows) ? 'Get whole texts' : 'Get all rows'}
              </Button>
            ))}
          {shown && WITHIN.includes(shown.inspection) && head.obstacle === undefined && (
            <Button small onClick={() => head.run('head')}>
              Back to all rows
            </Button>
          )}
          {head.obstacle === undefined && !head.current && (
            <Button small kind="primary" onClick={() => head.run('head')} disabled={run.open}>
              Run
            </Button>
          )}
        </div>
      </div>
      {run.failure && head.obstacle !== 'blocked' && (
        <div className="border-b px-3 py-2">
          <FailureNotice failure={run.failure} />
        </div>
      )}
      <div className="border-b px-3 py-1 text-meta empty:hidden">
        <Said label="What the source said" messages={shown?.stages?.flatMap((each) => each.said ?? []) ?? []} most={3} />
      </div>
      <div className="min-h-0 flex-1">
        {shown?.result ? (
          <div className={`h-full border-l-2 ${head.current ? 'border-transparent' : 'border-dashed border-amber'}`}>
            <RowsGrid
              key={shown.step}
              result={shown.result}
              view={view}
              onView={setView}
              onNeedAll={needAll}
              nothing={
                shown.inspection === 'group' || shown.inspection === 'line' ? (
                  <EmptyState>No row: the {shown.inspection} stands for itself.</EmptyState>
                ) : (
                  <NothingLeft bench={bench} head={head} />
                )
              }
              onFollow={onFollow}
              {...(shown.inspection === null ? { textOf: (cells, field) => textQuestion(bench, shown.result, cells, field) } : {})}
              made={madeOf(bench, shown.inspection)}
              onMadeOf={(cells) => head.showMadeOf(...madeOfRow(bench, shown.result, cells))}
            />
          </div>
        ) : (
          <NoRows bench={bench} head={head} run={run} />
        )}
      </div>
    </section>
  );
}

/** Every row is there, and what is not are the ends of long texts. */
const shortened = ({ rows, columns }: ResultDto, count: string | undefined) =>
  count === String(rows) && columns.some((each) => each.shortened === true);

const tooMany = (rows: string | undefined, most: number) => rows !== undefined && BigInt(rows) > BigInt(most);

/** What is shown instead of a step's rows, and left again by a button. */
const WITHIN: readonly (string | null)[] = ['failed', 'outcome', 'group', 'line'];

/** What asks for a text of a row, which is told by a key of the rows; undefined where they have none that is shown. */
function textQuestion(bench: Bench, result: ResultDto | null, cells: readonly Cell[], field: string): WholeTextOf | undefined {
  const { selected } = bench;
  const key = selected ? knownBy(selected.grain, selected.schema) : [];
  const identity = key.flatMap((id) => {
    const cell = cells[result?.columns.findIndex((each) => each.id === id) ?? -1];
    return cell === null || typeof cell === 'string' ? [{ field: id, value: cell }] : [];
  });
  if (!selected || key.length === 0 || identity.length < key.length) return undefined;
  return { bench, question: { kind: 'text', step: selected.step.id, field, identity } };
}

/** What each of the rows was made of others as: a group of a summary, or a line of a sheet. */
function madeOf({ selected }: Bench, inspection: string | null): MadeOf['kind'] | undefined {
  if (inspection !== null || !selected || selected.step.off) return undefined;
  if (ofKind('line sheet', selected.step)) return 'line';
  return (ofKind('summarise', selected.step)?.keys.length ?? 0) > 0 ? 'group' : undefined;
}

/** Which rows a row was made of, and what they are called. */
function madeOfRow({ selected }: Bench, result: ResultDto | null, cells: readonly Cell[]): readonly [MadeOf, string] {
  const valueOf = (field: string) => {
    const cell = cells[result?.columns.findIndex((each) => each.id === field) ?? -1] ?? null;
    return cell === null || typeof cell === 'string' ? cell : 't' in cell ? cell.t : cell.m;
  };
  const sheet = ofKind('line sheet', selected?.step);
  if (sheet) {
    const line = sheet.lines[Number(valueOf(sheet.names.line.id)) - 1];
    return [{ kind: 'line', line: line?.id ?? '' }, `Rows behind ${line?.wording || 'this line'}`];
  }
  const keys = ofKind('summarise', selected?.step)?.keys ?? [];
  const values = keys.map(({ id }) => valueOf(id));
  return [{ kind: 'group', keys: values }, `Rows of ${keys.map(({ name }, at) => `${name} ${values[at] ?? 'null'}`).join(', ')}`];
}

/** Gives a way to ask for all rows; where a run is still going, they are got when it has ended. */
function useNeedAll(run: RunState, head: HeadRun): () => void {
  const [wanted, setWanted] = useState<string>();
  const { shown, open } = run;
  const result = shown?.result;
  const get = wanted !== undefined && result?.id === wanted && !open && head.current;
  const { run: start } = head;
  useEffect(() => {
    if (!get) return;
    setWanted(undefined);
    if (result && !result.complete && result.cut === null) start('full');
  }, [get, result, start]);
  return () => setWanted(result?.id);
}

interface ViewNoteProps {
  readonly bench: Bench;
  readonly view: RowsView;
  /** What is looked at, where it is the step's own rows. */
  readonly result: ResultDto | null | undefined;
  readonly onView: (view: RowsView) => void;
}

/** What of the view hides or orders rows, said where it could be taken for the rows themselves; and made a step, it stays. */
function ViewNote({ bench, view, result, onView }: ViewNoteProps) {
  const { hidden, sort, order } = view;
  const { selected, trail, withoutValues } = bench;
  const keep = () => {
    if (!selected || !result) return;
    const shown = shownColumns(result.columns, view).map((each) => each.id);
    const { edits, step } = arrangeViewEdits(mint, trail, selected.step.id, { sort, shown });
    bench.edit(...edits);
    onView({ ...view, sort: [], order: [], hidden: [] });
    bench.select(step);
  };
  return (
    <>
      {sort.length > 0 && result?.complete === false && <span className="text-amber">sorted among the first rows only</span>}
      {hidden.length > 0 && (
        <Button small kind="quiet" onClick={() => onView({ ...view, hidden: [] })}>
          {`Show ${hidden.length} hidden field${hidden.length === 1 ? '' : 's'}`}
        </Button>
      )}
      {(sort.length > 0 || hidden.length > 0 || order.length > 0) && result && !withoutValues && (
        <Button small kind="quiet" onClick={keep}>
          Make it a step
        </Button>
      )}
    </>
  );
}

/** Which step, how many rows, complete or the first ones, which values, as of when; and whether that is still so. */
function Stamp({ bench, run, head }: RowsPanelProps) {
  const { shown } = run;
  const sources = api.useSourcesListQuery().data ?? [];
  if (!shown?.result || !bench.selected) return null;
  const { result } = shown;
  const count =
    shown.inspection === null ? head.counts[shown.step]?.rows : shown.inspection === 'failed' ? head.counts[shown.step]?.failed : undefined;
  const stopped = shown.state === 'cancelled' ? ', counting was stopped' : '';
  const extent =
    result.cut !== null
      ? `cut off after ${grouped(result.rows)} rows, a limit`
      : result.complete
        ? `all ${grouped(result.rows)} rows`
        : shortened(result, count)
          ? `all ${grouped(result.rows)} rows, long texts shortened`
          : result.id === shown.firstRows?.id
            ? `the first ${grouped(result.rows)} rows, the rest is on its way`
            : `the first ${grouped(result.rows)}${count === undefined ? '' : ` of ${grouped(count)}`} rows`;
  const misfits = Object.values(result.misfits).reduce((sum, each) => sum + each, 0);
  const values = bench.trail.definition.parameters.map(
    ({ id, name }) => `:${name} ${shown.values[id]?.filter((each) => each !== '').join(', ') || '(left blank)'}`,
  );
  return (
    <p className="figures flex flex-wrap items-center gap-x-3">
      <span>
        {shown.inspection === 'failed'
          ? 'Where calculating failed, '
          : shown.inspection === 'outcome' || shown.inspection === 'group' || shown.inspection === 'line'
            ? `${head.outcome}, of `
            : 'After '}
        <strong className="inline-block max-w-[48ch] truncate align-bottom font-medium" title={bench.selected.title}>
          {bench.selected.title}
        </strong>
        {': '}
        <span className={result.complete ? 'text-moss' : result.cut !== null ? 'text-amber' : ''}>
          {extent}
          {stopped}
        </span>
      </span>
      {values.length > 0 && <span className="text-slate">{values.join('; ')}</span>}
      <span className="text-ink-soft">as of {momentsOf(result, sources)}</span>
      {misfits > 0 && <span className="text-amber">{grouped(misfits)} values fit no type and are marked</span>}
      {!head.current && (
        <span title={WORDS['out of date']} className="font-medium text-amber">
          out of date
        </span>
      )}
    </p>
  );
}

/** When the rows were read; of several sources, when each was. */
function momentsOf({ asOf, moments }: ResultDto, sources: readonly SourceDto[]): string {
  if (moments.length < 2) return clock(asOf);
  return moments.map((each) => `${clock(each.asOf)} in ${sources.find(({ id }) => id === each.source)?.mark ?? '?'}`).join(', ');
}

/** Why a criteria step left no row, as far as its counts tell. */
function NothingLeft({ bench, head }: Pick<RowsPanelProps, 'bench' | 'head'>) {
  const step = ofKind('criteria', bench.selected?.step);
  const { clauses } = head;
  if (!step || !clauses || !head.clausesCurrent) return <EmptyState>No row is left.</EmptyState>;
  if (clauses.excluding) return <ExcludingNotice step={step} excluding={clauses.excluding} />;
  return (
    <EmptyState>
      {clauses.rows === '0' ? 'No row is left: none arrives at this step.' : 'No row is left. None of the clauses holds for any row.'}
    </EmptyState>
  );
}

function NoRows({ bench, head, run }: RowsPanelProps) {
  if (head.obstacle === 'without source')
    return <EmptyState>You lack a source of this dataset, so its rows are not shown. A steward gives sources.</EmptyState>;
  if (head.obstacle === 'blocked') return <EmptyState>This step cannot run before its errors are mended; they stand above.</EmptyState>;
  if (head.obstacle === 'values') return <EmptyState>A parameter needs another value first; the sentence above marks it.</EmptyState>;
  if (head.obstacle === 'nothing taken') return <SourceSample bench={bench} />;
  if (run.open || run.failure) return null;
  return <EmptyState>Not run yet. Ctrl+Enter runs it.</EmptyState>;
}

/** Before any field is ticked: what the source holds, plainly called a sample. */
function SourceSample({ bench }: { readonly bench: Bench }) {
  const table =
    bench.selected && subTrail(bench.trail.definition, bench.selected.step.id).flatMap((each) => ofKind('table', each) ?? [])[0];
  const sample = api.useSourcesSampleQuery(
    { id: table?.source ?? '', schema: table?.schema ?? '', table: table?.table ?? '' },
    { skip: !table },
  );
  return (
    <div className="flex h-full flex-col gap-2 overflow-auto p-3">
      <p>
        Nothing chosen yet. Below is a sample of the source
        {sample.data && `, ${sample.data.rows.length} rows as of ${clock(sample.data.asOf)}`}. Tick the fields to take in the table step, or
        take all.
      </p>
      {sample.data && <Sample sample={sample.data} />}
    </div>
  );
}
