import { lazy, Suspense, useMemo, useRef, useState } from 'react';
import type { PartText, Problem, Span, SqlStep } from '@cendra/core';
import { checkedOf, conversionOf, partOf, pointEdits, scriptInstead, sqlText, statementsIn, tokensOf } from '@cendra/core';
import { api } from '../../api';
import { KeepButton } from '../../kept-routines/keep-button';
import { Button } from '../../ui/button';
import { FailureNotice } from '../../ui/notice';
import { StatementShown } from '../runnable/statement-shown';
import { ChoiceSlot } from '../slots';
import { mint } from '../mint';
import type { StepEditorProps } from '../step-kind';
import { isLetBe } from './let-be';
import { OtherNotation } from './other-notation';
import { CommonTables } from './common-tables';
import { NewerOnShelf, ShelfMenu } from './shelf';
import { PendingFields } from './pending-fields';
import { SaidOfText } from './text-problems';
import { MetParameters, TextFields } from './text-gives';
import { Unions } from './unions';
import { useDescribed } from './use-described';
import { useKnown } from './use-known';
import { useRead } from './use-read';

const SqlField = lazy(() => import('./sql-field'));
const PartDialog = lazy(() => import('./part-dialog'));
const SweepDialog = lazy(() => import('./sweep-dialog'));
const StepsDialog = lazy(() => import('./steps-dialog'));

const NOTHING_READ: readonly Problem[] = [];

/** A text of SQL as it runs in its source, with what the source and its grammar say of it as it is written. */
export default function SqlEditor({ bench, checked }: StepEditorProps) {
  const sql = checkedOf('sql', checked);
  return sql && <Text bench={bench} checked={checked} step={sql.step} />;
}

function Text({ bench, checked, step }: Pick<StepEditorProps, 'bench' | 'checked'> & { readonly step: SqlStep }) {
  const { withoutValues, trail } = bench;
  const described = useDescribed(bench, step);
  const known = useKnown(trail.definition.parameters, step.source, described.text);
  const read = useRead('sql', described.text, known, described.met) ?? NOTHING_READ;
  const sources = api.useSourcesListQuery().data ?? [];
  const source = sources.find((each) => each.id === step.source);
  const exchange = useRef<(change: Span & { readonly instead: string }) => void>(undefined);
  const [sweeping, setSweeping] = useState(false);
  const [inSteps, setInSteps] = useState(false);
  const [selection, setSelection] = useState<Span>({ from: 0, to: 0 });
  const [part, setPart] = useState<{ readonly chosen: string; readonly part: PartText }>();
  const broken = read.some((each) => each.severity === 'error');
  // Parameters are made of what the source says; before it has, that they are missing is no news.
  const undescribed = described.asking || broken || described.problems.length > 0;
  const said = checked.problems.filter(({ code }) => code !== 'text-not-described' && !(undescribed && code === 'parameter-unknown'));
  // What the grammar cannot read, the source cannot either.
  const found = broken ? read : [...described.problems, ...read];
  const problems = [...found.filter((each) => !isLetBe(step, described.text, each)), ...said];
  const statements = useMemo(() => statementsIn(tokensOf(described.text)), [described.text]);
  const write = (text: string) => exchange.current?.({ from: 0, to: described.text.length, instead: text });
  const format = () => void import('../runnable/formatted').then(({ formatted }) => write(formatted(described.text)));
  const toScript = () => {
    const { edits, step: script } = scriptInstead(
      trail.definition,
      { ...step, sql: sqlText(described.text, trail.definition.parameters) },
      mint,
    );
    bench.edit(...edits);
    bench.select(script);
  };
  const [statement, second] = statements;
  const only = second === undefined ? statement : undefined;
  const runPart = () => {
    if (only) setPart({ chosen: described.text.slice(selection.from, selection.to), part: partOf(described.text, only, selection) });
  };
  const converted = useMemo(() => (withoutValues ? undefined : conversionOf(described.text)), [withoutValues, described.text]);
  // Declarations at its head are statements too; converted, there may be one left.
  const several = statements.length > 1 && !withoutValues && !converted;
  return (
    <div className="flex h-full min-h-56 flex-col">
      <div className="flex flex-wrap items-center gap-2 border-b px-3 py-1.5">
        <p>
          Rows of a text that runs in{' '}
          <ChoiceSlot
            label="Source the text runs in"
            value={source?.name ?? 'its source'}
            choices={sources.map((each) => each.name)}
            disabled={withoutValues || sources.length < 2}
            onChange={(name) => {
              const to = sources.find((each) => each.name === name)?.id;
              if (to !== undefined) bench.edit(...pointEdits(trail.definition, step, to));
            }}
          />
          <span className="text-ink-soft" role="status">
            {' '}
            {wordsOf(described.asking, step, known.away)}
          </span>
        </p>
        {!withoutValues && (
          <div className="ml-auto flex flex-wrap gap-2">
            <Button small onClick={runPart} disabled={!only || selection.from === selection.to}>
              Run the part
            </Button>
            <Button small onClick={() => setSweeping(true)} disabled={step.fields.length === 0 || step.sql.refs.length === 0}>
              Sweep …
            </Button>
            <Button
              small
              onClick={() => setInSteps(true)}
              disabled={
                checked.blocked || broken || described.asking || described.pending !== undefined || described.text !== step.sql.text
              }
            >
              Say it in steps …
            </Button>
            <Button small onClick={format} disabled={described.text.trim() === ''}>
              Format
            </Button>
            <KeepButton bench={bench} step={step} />
            <ShelfMenu bench={bench} step={step} text={described.text} onTake={write} />
          </div>
        )}
      </div>
      {sweeping && (
        <Suspense fallback={null}>
          <SweepDialog
            bench={bench}
            step={step}
            text={described.text}
            statement={only}
            selection={selection}
            onClose={() => setSweeping(false)}
          />
        </Suspense>
      )}
      {inSteps && (
        <Suspense fallback={null}>
          <StepsDialog bench={bench} step={step} known={known} onClose={() => setInSteps(false)} />
        </Suspense>
      )}
      {part && (
        <Suspense fallback={null}>
          <PartDialog bench={bench} step={step} {...part} onClose={() => setPart(undefined)} />
        </Suspense>
      )}
      {!withoutValues && <NewerOnShelf bench={bench} step={step} text={described.text} onTake={write} />}
      {converted && <OtherNotation converted={converted} onConvert={() => described.convert(converted)} />}
      <div className="flex min-h-0 flex-1 max-lg:flex-col">
        <div className="flex min-h-0 min-w-0 flex-1 flex-col">
          <Suspense fallback={<pre className="min-h-24 flex-1 overflow-auto px-3 py-2 font-mono">{described.text}</pre>}>
            <div className="min-h-24 flex-1 overflow-hidden">
              <SqlField
                label="SQL text"
                text={described.text}
                known={known}
                problems={problems}
                describedBy="sql-problems"
                readOnly={withoutValues}
                onType={described.type}
                onSelect={setSelection}
                onPart={runPart}
                onReady={(give) => (exchange.current = give)}
              />
            </div>
          </Suspense>
          <div className="max-h-32 shrink-0 overflow-auto border-t px-3 py-1 empty:hidden">
            <FailureNotice failure={described.failure} />
            {several && <Statements statements={statements} text={described.text} onKeep={write} onScript={toScript} />}
            {described.pending && <PendingFields pending={described.pending} />}
            <SaidOfText
              id="sql-problems"
              bench={bench}
              step={step}
              text={described.text}
              problems={problems}
              onExchange={(change) => exchange.current?.(change)}
            />
          </div>
        </div>
        <aside
          aria-label="What the text gives"
          className="w-80 shrink-0 overflow-auto border-l px-3 py-2 max-lg:max-h-40 max-lg:w-auto max-lg:border-t max-lg:border-l-0"
        >
          <MetParameters step={step} parameters={trail.definition.parameters} />
          {only && <CommonTables bench={bench} step={step} text={described.text} statement={only} />}
          {only && !withoutValues && (
            <Unions bench={bench} step={step} text={described.text} statement={only} onExchange={(change) => exchange.current?.(change)} />
          )}
          <TextFields bench={bench} step={step} />
          <StatementShown bench={bench} checked={checked} />
        </aside>
      </div>
    </div>
  );
}

/** Of several statements the one that is meant is asked for, unless it is all of them. */
function Statements({
  statements,
  text,
  onKeep,
  onScript,
}: {
  readonly statements: readonly Span[];
  readonly text: string;
  readonly onKeep: (text: string) => void;
  readonly onScript: () => void;
}) {
  return (
    <div className="mb-2">
      <p>
        Which one is meant? If all of them, in their order:{' '}
        <Button small onClick={onScript}>
          Make it a script
        </Button>
      </p>
      <ul aria-label="Statements of the text">
        {statements.slice(0, 20).map(({ from, to }) => (
          <li key={from} className="flex items-center gap-2 py-0.5">
            <Button small onClick={() => onKeep(text.slice(from, to))}>
              Keep this one
            </Button>
            <code className="truncate font-mono text-meta">{text.slice(from, Math.min(to, from + 120))}</code>
          </li>
        ))}
      </ul>
    </div>
  );
}

function wordsOf(asking: boolean, step: SqlStep, away: boolean): string {
  if (away) return 'The source does not answer; completion goes on from what is known.';
  if (asking) return 'Asking the source …';
  if (step.fields.length === 0) return '';
  return `It gives ${step.fields.length} ${step.fields.length === 1 ? 'field' : 'fields'}.`;
}
