import { lazy, Suspense, useMemo, useRef, useState } from 'react';
import type { Problem, ScriptStep, Span } from '@cendra/core';
import { checkedOf, pointEdits, statementsIn, tokensOf } from '@cendra/core';
import { api } from '../../api';
import { KeepButton } from '../../kept-routines/keep-button';
import { Button } from '../../ui/button';
import { clock } from '../../ui/format';
import { FailureNotice } from '../../ui/notice';
import { WORDS } from '../../ui/words';
import { StatementShown } from '../runnable/statement-shown';
import { ChoiceSlot } from '../slots';
import { isLetBe } from '../sql/let-be';
import { PendingFields } from '../sql/pending-fields';
import { MetParameters, TextFields } from '../sql/text-gives';
import { SaidOfText } from '../sql/text-problems';
import { useDescribed } from '../sql/use-described';
import { useKnown } from '../sql/use-known';
import { useRead } from '../sql/use-read';
import type { StepEditorProps } from '../step-kind';
import { BehindStatement } from './behind-statement';
import type { ListedStatement } from './statement-list';
import { StatementList } from './statement-list';
import { GoesOnFrom, TwoScripts } from './two-scripts';
import { useScriptRun } from './use-script-run';
import { useTextsAround } from './use-texts-around';

const LargeDialog = lazy(() => import('./large-dialog'));
const SqlField = lazy(() => import('../sql/sql-field'));

const NOTHING_READ: readonly Problem[] = [];

/** A script as it runs in one session of its source, and beside it what each statement did. */
export default function ScriptEditor({ bench, checked }: StepEditorProps) {
  const script = checkedOf('script', checked);
  return script && <Script bench={bench} checked={checked} step={script.step} />;
}

function Script({ bench, checked, step }: Pick<StepEditorProps, 'bench' | 'checked'> & { readonly step: ScriptStep }) {
  const { withoutValues, trail } = bench;
  const around = useTextsAround(bench, step);
  const described = useDescribed(bench, step, around?.before);
  const { text } = described;
  const known = useKnown(trail.definition.parameters, step.source, text);
  const read = useRead('script', text, known, described.met, around) ?? NOTHING_READ;
  const sources = api.useSourcesListQuery().data ?? [];
  const field = useRef<{ exchange(change: Span & { readonly instead: string }): void; show(at: Span): void }>(undefined);
  const run = useScriptRun(bench, step, described, around?.before);
  const [chosen, setChosen] = useState<number>();
  const [large, setLarge] = useState(false);
  const [beside, setBeside] = useState<'statements' | 'fields'>('statements');
  const broken = read.some((each) => each.severity === 'error');
  const undescribed = described.asking || broken || described.problems.length > 0;
  const said = checked.problems.filter(({ code }) => code !== 'text-not-described' && !(undescribed && code === 'parameter-unknown'));
  const found = broken ? read : [...described.problems, ...read];
  const problems = [...found.filter((each) => !isLetBe(step, text, each)), ...said];
  const statements = useMemo(() => statementsIn(tokensOf(text)), [text]);
  const listed = statements.map(({ from, to }, at): ListedStatement => {
    const own = text.slice(from, Math.min(to, from + 200)).replace(/\s+/g, ' ');
    return { number: at + 1, from, to, says: own, told: run.told?.statements[at] };
  });
  const opened =
    chosen ??
    run.told?.statements.find((each) => each.state === 'failed')?.number ??
    run.told?.statements.findLast((each) => each.state === 'ran')?.number;
  const behind = run.told?.statements.find((each) => each.number === opened);
  const runTo = (number: number) => {
    setChosen(number);
    run.run(number);
  };
  const choose = (number: number) => {
    setChosen(number);
    const at = listed.find((each) => each.number === number);
    if (at) field.current?.show(at);
  };
  const setKey = (table: string, columns: readonly string[]) => {
    const others = (step.tempKeys ?? []).filter((each) => each.table !== table);
    const to = columns.length === 0 ? others : [...others, { table, columns }];
    bench.edit({ kind: 'set step', step: step.id, property: 'tempKeys', from: step.tempKeys, to: to.length === 0 ? undefined : to });
  };
  const format = () =>
    void import('../runnable/formatted').then(({ formatted }) =>
      field.current?.exchange({ from: 0, to: text.length, instead: formatted(text) }),
    );
  const cannotRun = withoutValues || run.lacksValues || statements.length === 0;
  return (
    <div className="flex h-full min-h-64 flex-col">
      <div className="flex flex-wrap items-center gap-2 border-b px-3 py-1.5">
        <p>
          A script of {statements.length} {statements.length === 1 ? 'statement' : 'statements'} in one session of{' '}
          <ChoiceSlot
            label="Source the script runs in"
            value={sources.find((each) => each.id === step.source)?.name ?? 'its source'}
            choices={sources.map((each) => each.name)}
            disabled={withoutValues || sources.length < 2 || step.inputs.length > 0}
            onChange={(name) => {
              const to = sources.find((each) => each.name === name)?.id;
              if (to !== undefined) bench.edit(...pointEdits(trail.definition, step, to));
            }}
          />
          <GoesOnFrom bench={bench} step={step} />.
          <span className="text-ink-soft" role="status">
            {described.asking ? ' Asking the source …' : step.fields.length > 0 ? ` The last one gives ${step.fields.length} fields.` : ''}
          </span>
        </p>
        {!withoutValues && (
          <div className="ml-auto flex flex-wrap gap-2">
            {run.running ? (
              <Button small onClick={() => run.stop()}>
                Stop
              </Button>
            ) : (
              <>
                <Button small disabled={cannotRun} onClick={() => run.run()}>
                  Run the statements
                </Button>
                <Button small disabled={cannotRun || chosen === undefined} onClick={() => chosen !== undefined && runTo(chosen)}>
                  Run to here
                </Button>
              </>
            )}
            <Button small onClick={format} disabled={text.trim() === ''}>
              Format
            </Button>
            <TwoScripts bench={bench} step={step} settled={step.sql.text === text} chosen={chosen} statements={statements.length} />
            {step.inputs.length === 0 && <KeepButton bench={bench} step={step} />}
          </div>
        )}
      </div>
      {large && run.told && behind && (
        <Suspense fallback={null}>
          <LargeDialog
            told={run.told}
            statement={behind}
            step={step}
            onKey={withoutValues ? undefined : setKey}
            onChoose={setChosen}
            onClose={() => setLarge(false)}
          />
        </Suspense>
      )}
      <div className="flex min-h-0 flex-1 max-lg:flex-col">
        <div className="flex min-h-0 min-w-0 flex-1 flex-col">
          <Suspense fallback={<pre className="min-h-24 flex-1 overflow-auto px-3 py-2 font-mono">{text}</pre>}>
            <div className="min-h-24 flex-1 overflow-hidden">
              <SqlField
                label="Script"
                text={text}
                known={known}
                problems={problems}
                describedBy="script-problems"
                readOnly={withoutValues}
                onType={described.type}
                onSelect={({ from }) => {
                  const at = listed.findLast((each) => each.from <= from);
                  if (at && at.number !== chosen) setChosen(at.number);
                }}
                onPart={() => chosen !== undefined && !cannotRun && runTo(chosen)}
                onReady={(exchange, show) => (field.current = { exchange, show })}
              />
            </div>
          </Suspense>
          <div className="max-h-32 shrink-0 overflow-auto border-t px-3 py-1 empty:hidden">
            <FailureNotice failure={described.failure} />
            {described.pending && <PendingFields pending={described.pending} />}
            <SaidOfText
              id="script-problems"
              bench={bench}
              step={step}
              text={text}
              problems={problems}
              onExchange={(change) => field.current?.exchange(change)}
            />
          </div>
        </div>
        <aside
          aria-label="What the script does"
          className="flex w-104 shrink-0 flex-col border-l max-lg:max-h-64 max-lg:w-auto max-lg:border-t max-lg:border-l-0"
        >
          <div className="flex items-center gap-3 border-b px-3 py-1 text-meta">
            {(['statements', 'fields'] as const).map((each) => (
              <button
                key={each}
                type="button"
                aria-pressed={beside === each}
                onClick={() => setBeside(each)}
                className={`border-b ${beside === each ? 'border-ember font-medium' : 'border-transparent text-ink-soft hover:border-line'}`}
              >
                {each === 'statements' ? 'Statements' : 'Fields'}
              </button>
            ))}
            <Session run={run} />
          </div>
          {beside === 'statements' ? (
            <>
              <StatementList
                statements={listed}
                chosen={opened}
                current={run.current}
                onChoose={choose}
                onRunTo={(number) => !cannotRun && runTo(number)}
              />
              <div className="px-3 empty:hidden">
                <FailureNotice failure={run.failure} />
              </div>
              {run.told && behind ? (
                <BehindStatement
                  told={run.told}
                  statement={behind}
                  step={step}
                  onKey={withoutValues ? undefined : setKey}
                  onLarge={() => setLarge(true)}
                />
              ) : (
                <p className="px-3 py-2 text-ink-soft">
                  {run.running ? 'Running it …' : 'Not run yet. Run the statements to see what each did to the temp tables.'}
                </p>
              )}
            </>
          ) : (
            <div className="min-h-0 overflow-auto px-3 py-2">
              <MetParameters step={step} parameters={trail.definition.parameters} />
              <TextFields bench={bench} step={step} />
              <StatementShown bench={bench} checked={checked} />
            </div>
          )}
        </aside>
      </div>
    </div>
  );
}

/** Of which moment the list is, how long its session is kept, and the way to end it. */
function Session({ run: { told, current, kept, running, end } }: { readonly run: ReturnType<typeof useScriptRun> }) {
  if (!told || running) return null;
  return (
    <>
      <span role="status" className="ml-auto truncate text-ink-soft">
        {current ? `as of ${clock(told.asOf)}` : <span title={WORDS['out of date']}>out of date</span>}
        {told.stood > 0 && current && `, ${told.stood} stood already`}
        {kept && told.until !== null && `, kept until ${clock(told.until)}`}
      </span>
      {kept && (
        <Button small kind="quiet" onClick={end}>
          End the session
        </Button>
      )}
    </>
  );
}
