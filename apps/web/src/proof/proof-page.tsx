import { nowMicros } from '../ui/now';
import { Download } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import type { FieldType, GivenValues } from '@cendra/core';
import { bindDefinition, datasetSentence, isNumber, sentenceText } from '@cendra/core';
import type { ResultDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { mint } from '../bench/mint';
import { SentenceBar } from '../bench/sentence-bar';
import { useBench } from '../bench/use-bench';
import { RunProgress } from '../runs/progress';
import { useRun } from '../runs/use-run';
import { Button } from '../ui/button';
import type { Cell } from '../ui/cell';
import { clock, grouped } from '../ui/format';
import { EmptyState, FailureNotice } from '../ui/notice';
import { proofText } from './proof-text';

const PAGE = 100;

/** The result as a report would read it: the sentence as title, all rows as a plain formatted table, and the way to take it away. */
export function ProofPage() {
  const bench = useBench();
  const { trail, values, id } = bench;
  const slot = useMemo(() => mint(), []);
  const run = useRun(slot);
  const { start } = run;
  const last = trail.steps[trail.steps.length - 1];
  const binding = useMemo(() => bindDefinition(trail.definition, values, nowMicros()), [trail.definition, values]);
  const { revision } = bench.bench.saved;
  const ready =
    last &&
    !last.blocked &&
    !bench.withoutValues &&
    bench.bench.pending.length === 0 &&
    binding.problems.length === 0 &&
    last.schema.fields.some((each) => !each.forUseOnly);
  const step = last?.step.id ?? '';
  useEffect(() => {
    if (ready) void start({ dataset: id, revision, step, size: 'full', values: binding.used });
  }, [ready, id, revision, step, binding.used, start]);
  const title = sentenceText(datasetSentence(trail, values));
  const { shown } = run;
  const result = ready && shown?.revision === revision && shown.step === step ? shown.result : null;
  return (
    <main className="flex h-full flex-col">
      <SentenceBar bench={bench} />
      <div className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="region" aria-label="Proof">
        <article className="mx-auto max-w-5xl space-y-3 p-6">
          <h2 className="font-serif text-title">{title}</h2>
          {run.run && run.open && <RunProgress run={run.run} onStop={run.stop} />}
          <FailureNotice failure={run.failure} />
          {!ready && (
            <NotReady withoutValues={bench.withoutValues} values={binding.problems.length > 0} pending={bench.bench.pending.length > 0} />
          )}
          {result && shown && <Proof result={result} values={shown.values} title={bench.bench.definition.title} outOfDate={run.open} />}
        </article>
      </div>
    </main>
  );
}

function NotReady({
  withoutValues,
  values,
  pending,
}: {
  readonly withoutValues: boolean;
  readonly values: boolean;
  readonly pending: boolean;
}) {
  if (withoutValues)
    return <EmptyState>You lack a source of this dataset, so there is no proof to read. A steward gives sources.</EmptyState>;
  if (pending) return <EmptyState>The last change is being saved.</EmptyState>;
  if (values) return <EmptyState>A parameter needs another value first; the sentence above marks it.</EmptyState>;
  return <EmptyState>There is nothing to read yet. Take fields and mend the findings on the bench.</EmptyState>;
}

interface ProofProps {
  readonly result: ResultDto;
  readonly values: GivenValues;
  readonly title: string;
  readonly outOfDate: boolean;
}

function Proof({ result, title, outOfDate }: ProofProps) {
  const [page, setPage] = useState(0);
  const total = Number(result.rows);
  const rows = api.useResultsRowsQuery({ id: result.id, offset: page * PAGE, limit: PAGE });
  const shown = (rows.currentData ?? rows.data) as unknown as readonly (readonly Cell[])[] | undefined;
  const misfits = Object.values(result.misfits).reduce((sum, each) => sum + each, 0);
  return (
    <section
      aria-label="Rows of the proof"
      className={`border-l-2 pl-2 ${outOfDate ? 'border-dashed border-amber' : 'border-transparent'}`}
    >
      <div className="figures flex flex-wrap items-center gap-x-4 gap-y-1 border-y py-2">
        <span className={result.complete ? 'text-moss' : 'text-amber'}>
          {result.complete ? `${grouped(result.rows)} rows, complete` : `cut off after ${grouped(result.rows)} rows: a limit was reached`}
        </span>
        <span className="text-ink-soft">as of {clock(result.asOf)}</span>
        {misfits > 0 && <span className="text-amber">{grouped(misfits)} values fit no type and are marked with !</span>}
        <TakeAway result={result.id} title={title} />
      </div>
      <FailureNotice failure={failureOf(rows.error)} />
      {total === 0 ? (
        <EmptyState>No row is left.</EmptyState>
      ) : (
        <>
          <table className="figures mt-2 w-full">
            <thead>
              <tr className="border-b border-ink-faint text-left">
                {result.columns.map((column) => (
                  <th
                    key={column.id}
                    scope="col"
                    className={`px-2 py-1 font-medium ${isNumber(column.type as FieldType) ? 'text-right' : ''}`}
                  >
                    {column.name.replaceAll('_', ' ')}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {shown?.map((row) => (
                <tr key={String(row[0])} className="border-b">
                  {result.columns.map((column, index) => (
                    <td
                      key={column.id}
                      className={`max-w-80 truncate px-2 py-0.5 ${isNumber(column.type as FieldType) ? 'text-right whitespace-nowrap' : ''}`}
                    >
                      {proofText(row[index + 1] ?? null, column.type as FieldType)}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          {total > PAGE && (
            <nav aria-label="Pages of the proof" className="figures flex items-center gap-2 py-2">
              <Button small disabled={page === 0} onClick={() => setPage(page - 1)}>
                Before
              </Button>
              rows {grouped(page * PAGE + 1)} to {grouped(Math.min(total, (page + 1) * PAGE))} of {grouped(total)}
              <Button small disabled={(page + 1) * PAGE >= total} onClick={() => setPage(page + 1)}>
                Next
              </Button>
            </nav>
          )}
        </>
      )}
    </section>
  );
}

/** Downloads the full result; the browser streams it to disk. */
function TakeAway({ result, title }: { readonly result: string; readonly title: string }) {
  return (
    <a
      href={`/api/results/${result}/file?format=csv&name=${encodeURIComponent(title)}`}
      download
      className="ml-auto inline-flex h-8 items-center gap-1.5 rounded border border-ember bg-ember px-3 font-medium text-on-ember"
    >
      <Download size={16} strokeWidth={1.75} aria-hidden />
      Take away as CSV
    </a>
  );
}
