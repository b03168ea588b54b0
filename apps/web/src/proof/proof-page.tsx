import { lazy, Suspense, useMemo, useState } from 'react';
import {
  chartReading,
  datasetName,
  datasetSentence,
  filledFigures,
  fittingLayout,
  legendOf,
  proofTable,
  readLayout,
  reportFields,
  rowsNotes,
  sentenceText,
  shownTitle,
  titleFigures,
  withFollowed,
  withMarkValues,
} from '@cendra/core';
import type { ResultDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { WithDrawers } from '../bench/drawers';
import { SentenceBar } from '../bench/sentence-bar';
import type { Bench } from '../bench/use-bench';
import { useValuesInUse } from '../bench/parameters/values-in-use';
import { useBench } from '../bench/use-bench';
import { RunProgress, RunStopped } from '../runs/progress';
import { isOpen } from '../runs/runs-slice';
import { Button } from '../ui/button';
import { clock, dated } from '../ui/format';
import { EmptyState, FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';
import { WORDS } from '../ui/words';
import type { PaperOf } from './ask-paper';
import type { ShownChart } from './chart/chart-panel';
import { FindingsStrip } from './findings-strip';
import { LayoutSentence } from './layout-sentence';
import { LinesGrid } from './lines-grid';
import { PrintButton } from './print';
import { TakeAway, TakingLine } from './take-away';
import type { ProofRunState } from './use-proof-run';
import { useProofRun } from './use-proof-run';
import { useTaking } from './use-taking';

const ChartPanel = lazy(() => import('./chart/chart-panel'));

/** The result as a report would read it: the sentence as title, groups with their totals, all of it over the full result. */
export function ProofPage() {
  const bench = useBench();
  const run = useProofRun(bench);
  const { trail, values } = bench;
  const fields = useMemo(() => reportFields(trail), [trail]);
  const { proof, parameters, calendar } = trail.definition;
  const layout = useMemo(() => fittingLayout(proof, fields, parameters), [proof, fields, parameters]);
  // What is marked is told by the values the rows were got with.
  const used = run.shown?.values ?? values;
  const read = useMemo(
    () => readLayout(withMarkValues(layout, parameters, used), fields, calendar),
    [layout, parameters, used, fields, calendar],
  );
  const { shown: inWords } = useValuesInUse(bench);
  const figures = useTitleFigures(bench, run, fields);
  const said = (kept: string | undefined) =>
    kept === undefined ? undefined : filledFigures(shownTitle(kept, trail.definition, inWords), figures.named, figures.cells, fields);
  const title = said(layout.title) ?? sentenceText(datasetSentence(trail, inWords));
  const [subtitle, note] = [said(layout.subtitle), said(layout.note)];
  const result = run.shown?.result;
  return (
    <main className="flex h-full flex-col">
      <SentenceBar bench={bench} />
      <WithDrawers bench={bench} run={run.run}>
        <section aria-label="Proof" className="flex min-w-0 flex-1 flex-col">
          <LayoutSentence bench={bench} layout={layout} fields={fields} result={result?.id} />
          <div className="flex min-h-0 flex-1 flex-col overflow-y-auto px-4 pt-3">
            <h2 title={title} className="line-clamp-3 shrink-0 font-serif text-title">
              {title}
            </h2>
            {subtitle !== undefined && <p className="mt-0.5 line-clamp-2 shrink-0 font-serif text-base">{subtitle}</p>}
            {note !== undefined && <p className="mt-0.5 line-clamp-3 shrink-0 text-ink-soft">{note}</p>}
            {run.run && isOpen(run.run) && <RunProgress run={run.run} onStop={run.stop} />}
            <RunStopped run={run.run} shown={run.shown} />
            <FailureNotice failure={run.failure} />
            {run.obstacle && <Obstacle obstacle={run.obstacle} />}
            {result && run.obstacle !== 'without source' && run.obstacle !== 'nothing' && (
              <Result
                bench={bench}
                run={run}
                result={result}
                title={title}
                subtitle={subtitle}
                note={note}
                fields={read.fields}
                layout={read.layout}
              />
            )}
          </div>
        </section>
      </WithDrawers>
    </main>
  );
}

/** The figures that stand in the title and the note, as far as they are known of the rows that are shown. */
function useTitleFigures({ bench, id, trail }: Bench, run: ProofRunState, fields: ReturnType<typeof reportFields>) {
  const { proof } = trail.definition;
  const named = useMemo(() => titleFigures(proof, fields), [proof, fields]);
  const asked = { result: run.shown?.result?.id ?? '', dataset: id, revision: bench.saved.revision };
  const skip = named.length === 0 || asked.result === '' || bench.pending.length > 0 || !run.current;
  const { currentData } = api.useProofQuery(asked, { skip });
  return { named, cells: currentData?.figures };
}

function Obstacle({ obstacle }: { readonly obstacle: NonNullable<ProofRunState['obstacle']> }) {
  if (obstacle === 'without source')
    return <EmptyState>You lack a source of this dataset, so there is no proof to read. A steward gives sources.</EmptyState>;
  if (obstacle === 'pending') return <p className="py-1 text-ink-soft">The last change is being saved.</p>;
  if (obstacle === 'values') return <EmptyState>A parameter needs another value first; the sentence above marks it.</EmptyState>;
  return <EmptyState>There is nothing to read yet. Take fields and mend the findings on the bench.</EmptyState>;
}

interface ResultProps {
  readonly bench: Bench;
  readonly run: ProofRunState;
  readonly result: ResultDto;
  readonly title: string;
  readonly subtitle: string | undefined;
  readonly note: string | undefined;
  readonly fields: ReturnType<typeof reportFields>;
  readonly layout: ReturnType<typeof fittingLayout>;
}

function Result({ bench, run, result, title, subtitle, note, fields, layout }: ResultProps) {
  const { revision } = bench.bench.saved;
  const settled = bench.bench.pending.length === 0;
  const asked = useMemo(() => ({ result: result.id, dataset: bench.id, revision }), [result.id, bench.id, revision]);
  const proof = api.useProofQuery(asked, { skip: !settled || !run.current });
  const taking = useTaking();
  const notes = rowsNotes(result);
  // Columns of lines made by another layout would be read wrongly, so lines are shown only with their own.
  const made = run.current && settled ? proof.currentData : undefined;
  const reading = useMemo(() => chartReading(layout, fields), [layout, fields]);
  const [chart, setChart] = useState<ShownChart>();
  const { data: allowed } = api.useLinksAllowedQuery();
  const table = useMemo(() => {
    const followed = withFollowed(layout, fields, allowed?.beginnings ?? []);
    return proofTable(followed.layout, followed.fields, made?.across);
  }, [layout, fields, allowed, made?.across]);
  const paper: PaperOf = { ...asked, name: datasetName(bench.bench.definition), title, subtitle, note, chart: reading && chart };
  const { data: me } = api.usePeopleMeQuery();
  const told = `As of ${dated(result.asOf)}${me ? `, asked by ${me.shownName}` : ''}.`;
  const legend = useMemo(() => legendOf(table), [table]);
  return (
    <>
      <div className="figures flex flex-wrap items-center gap-x-4 gap-y-1 border-b py-2">
        <span className={result.complete ? 'text-moss' : 'text-amber'}>{notes[0]}</span>
        <span className="text-ink-soft">as of {clock(result.asOf)}</span>
        {notes.slice(1).map((note) => (
          <span key={note} className="text-amber">
            {note}
          </span>
        ))}
        <FindingsStrip
          bench={bench}
          ready={made !== undefined && result.rows !== '0'}
          asked={asked}
          among={result.complete ? undefined : notes[0]}
        />
        {!run.current && (
          <span title={WORDS['out of date']} className="font-medium text-amber">
            out of date
          </span>
        )}
        <div className="ml-auto flex items-center gap-2">
          <Button small kind="quiet" onClick={run.again} disabled={run.open || run.obstacle !== undefined}>
            Run again
          </Button>
          {made && (
            <PrintButton
              key={made.key}
              asked={asked}
              proof={made}
              table={table}
              paper={paper}
              notes={[...(note === undefined ? [] : [note]), ...notes, told]}
            />
          )}
          <TakeAway rows={Number(result.rows)} paper={paper} state={taking} />
        </div>
      </div>
      <TakingLine {...taking} />
      <FailureNotice failure={failureOf(proof.error)} />
      {proof.isFetching && !made && <Waiting what="Making groups and totals" />}
      {result.rows === '0' && <EmptyState>No row is left. The trail on the bench tells at which step the last ones went.</EmptyState>}
      {made && result.rows !== '0' && reading && (
        <Suspense fallback={null}>
          <ChartPanel
            asked={asked}
            reading={reading}
            fields={fields}
            name={datasetName(bench.bench.definition)}
            notes={[...notes, told]}
            onShown={setChart}
          />
        </Suspense>
      )}
      {made && result.rows !== '0' && <LinesGrid key={made.key} asked={asked} proof={made} table={table} />}
      {made && legend.length > 0 && (
        <ul aria-label="What the letters mean" className="border-t py-1 text-meta text-ink-soft">
          {legend.map((each) => (
            <li key={each}>{each}</li>
          ))}
        </ul>
      )}
    </>
  );
}
