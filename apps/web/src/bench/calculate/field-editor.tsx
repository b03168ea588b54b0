import { lazy, Suspense, useCallback, useEffect, useId, useMemo, useRef, useState } from 'react';
import type { CalculateStep, CheckedField, Definition, ExpressionText, Problem, Span } from '@cendra/core';
import { linkReferences, LIVE_AMONG, ofKind, setItem } from '@cendra/core';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';
import { FailureNotice, ProblemLine } from '../../ui/notice';
import { TextSlot } from '../slots';
import type { Bench } from '../use-bench';
import { LiveValues } from './live-values';
import { TraceView } from './trace-view';
import { useLive, useLiveValues, useTrace, useVerdict } from './use-calculation';
import type { Written } from './values';
import { WindowTemplateSentence } from './window-template-sentence';

const ExpressionField = lazy(() => import('./expression-field'));
const FormsList = lazy(() => import('./forms-list'));

/** Beside the expression, or under it where there is no room beside. */
const BESIDE = 'w-[46%] shrink-0 @max-3xl:h-[46%] @max-3xl:w-full @max-3xl:border-t';

/** A sound text that rests this long is kept by itself; one with errors waits until it is left. */
const KEEP_AFTER = 900;

interface FieldEditorProps {
  readonly bench: Bench;
  readonly step: CalculateStep;
  readonly checked: CheckedField;
}

/** One calculated field: its name, its expression with what is wrong in it, and its values. */
export function FieldEditor({ bench, step, checked }: FieldEditorProps) {
  const { field, scope } = checked;
  const { edit, trail, withoutValues } = bench;
  const { parameters, calendar } = trail.definition;
  const [typed, setTyped] = useState<string>();
  const text = typed ?? field.expression.text;
  const expression = useMemo(
    (): ExpressionText => (typed === undefined ? field.expression : linkReferences(typed, { ...scope, parameters })),
    [typed, field.expression, scope, parameters],
  );
  const written = useMemo((): Written => ({ expression, ...scope, parameters, calendar }), [expression, scope, parameters, calendar]);
  const verdict = useVerdict(written);
  const sound = verdict !== undefined && !verdict.problems.some((each) => each.severity === 'error');
  const keep = useKeeping(typed, sound, (latest) => {
    setTyped(undefined);
    if (latest === field.expression.text) return;
    const to = { ...field, expression: linkReferences(latest, { ...scope, parameters }) };
    edit(setItem(step, 'fields', field, to));
  });
  const [at, setAt] = useState<Span>();
  const write = useRef<(text: string) => void>(undefined);
  const [worded, setWorded] = useState(false);
  const [listed, setListed] = useState(false);
  const [focus, setFocus] = useState(0);
  const problemsId = useId();
  const problems = useMemo(() => (text === '' ? [] : (verdict?.problems ?? [])), [text, verdict]);
  const named = checked.problems.filter((each) => each.place.position === undefined && each.code.startsWith('name'));
  const calculated = useMemo(() => calculatedIn(trail.definition), [trail.definition]);
  const hints = checked.problems.filter((each) => each.severity === 'hint' && !named.includes(each));

  const fix = (found: Problem) => {
    const { position } = found.place;
    if (!position || found.instead === undefined) return;
    setTyped(text.slice(0, position.from) + found.instead + text.slice(position.to));
    setFocus((old) => old + 1);
  };
  const word = (insert: string, pattern: string | undefined) => {
    write.current?.(insert);
    const format = trail.definition.sheet.find((each) => each.field === field.id)?.format;
    // Within more that is written it is not all of the value.
    if (pattern !== undefined && text.trim() === '' && format === undefined)
      edit({ kind: 'set sheet', field: field.id, property: 'format', to: { pattern } });
  };
  const rename = (to: string) => {
    edit({ kind: 'rename field', step: step.id, field: field.id, from: field.name, to: to.trim() });
    setFocus((old) => old + 1);
  };
  return (
    <div className="flex min-w-0 flex-1 @max-3xl:flex-col">
      <div className="flex min-h-0 min-w-0 flex-1 flex-col border-r">
        <p className="flex flex-wrap items-center gap-1 border-b px-2 py-1">
          <span className="text-plum">=</span>
          <TextSlot
            label="Name of the calculated field"
            value={field.name}
            placeholder="name"
            disabled={withoutValues}
            autoFocus={field.name === ''}
            wrong={named.length > 0}
            onKeep={rename}
          />
          <span className="text-meta text-ink-soft">
            {verdict?.type !== undefined && text !== '' && `is a ${verdict.type}`.replace('a i', 'an i')}
          </span>
        </p>
        <div className="min-h-0 flex-1 overflow-auto">
          <Suspense fallback={<p className="px-3 py-2 text-ink-soft">Opening the editor …</p>}>
            <ExpressionField
              label={`Expression of ${field.name || 'the calculated field'}`}
              text={text}
              schema={scope.schema}
              parameters={parameters}
              calculated={calculated}
              problems={problems}
              describedBy={problemsId}
              readOnly={withoutValues}
              focus={focus}
              onType={setTyped}
              onKeep={keep}
              onPoint={setAt}
              onFix={(position) => {
                const here = problems.find(
                  ({ place, instead }) =>
                    instead !== undefined && place.position && place.position.from <= position && position <= place.position.to,
                );
                const found = here ?? problems.find((each) => each.instead !== undefined);
                if (found) fix(found);
              }}
              onReady={(insert) => {
                write.current = insert;
              }}
            />
          </Suspense>
          <div id={problemsId} aria-live="polite" className="space-y-1 px-3 pb-1">
            {[...named, ...problems, ...hints].map((each, index) => (
              <div key={index} className="flex items-start gap-2">
                <ProblemLine problem={each} />
                {each.instead !== undefined && (
                  <Button small onClick={() => fix(each)} title="Alt+Enter in the expression">
                    Write {each.instead}
                  </Button>
                )}
              </div>
            ))}
          </div>
        </div>
        {worded ? (
          <WindowTemplateSentence schema={scope.schema} onWrite={word} onDone={() => setWorded(false)} />
        ) : (
          !withoutValues && (
            <div className="border-t px-2 py-1">
              <Button small kind="quiet" onClick={() => setWorded(true)}>
                Say it in words …
              </Button>
              <Button small kind="quiet" aria-expanded={listed} onClick={() => setListed(!listed)}>
                Functions …
              </Button>
            </div>
          )
        )}
      </div>
      {listed ? (
        <section aria-label="What can be written" className={BESIDE}>
          <Suspense fallback={null}>
            <FormsList onWrite={(skeleton) => write.current?.(skeleton)} onClose={() => setListed(false)} />
          </Suspense>
        </section>
      ) : (
        <Values bench={bench} step={step} checked={checked} written={written} verdict={verdict} at={at} onPoint={setAt} />
      )}
    </div>
  );
}

/** Keeps what was typed: when it is left, on purpose, or when it is sound and has rested. */
function useKeeping(typed: string | undefined, sound: boolean, keep: (text: string) => void): () => void {
  const latest = useRef({ typed, keep });
  useEffect(() => {
    latest.current = { typed, keep };
  });
  const now = useCallback(() => {
    if (latest.current.typed !== undefined) latest.current.keep(latest.current.typed);
  }, []);
  useEffect(() => {
    if (typed === undefined || !sound) return undefined;
    const timer = setTimeout(now, KEEP_AFTER);
    return () => clearTimeout(timer);
  }, [typed, sound, now]);
  // Another field or step is opened: what was typed is not lost.
  useEffect(() => now, [now]);
  return now;
}

function calculatedIn({ steps }: Definition): ReadonlySet<string> {
  return new Set(steps.flatMap((step) => ofKind('calculate', step)?.fields.map((each) => each.id) ?? []));
}

interface ValuesProps extends FieldEditorProps {
  readonly written: Written;
  readonly verdict: ReturnType<typeof useVerdict>;
  readonly at: Span | undefined;
  readonly onPoint: (at: Span) => void;
}

/** Beside the expression: its value on a handful of rows, or how the value of one of them came about. */
function Values({ bench, step, checked, written, verdict, at, onPoint }: ValuesProps) {
  const { field, scope } = checked;
  const [row, setRow] = useState<number>();
  const live = useLive(bench, step.id, field.id, written.expression, verdict);
  const values = useLiveValues(written, live.rows, bench, at);
  const trace = useTrace(written, live.rows, bench, row);
  const { text } = written.expression;
  const part =
    values && (values.part.from > 0 || values.part.to < text.trimEnd().length)
      ? text.slice(values.part.from, values.part.to).replace(/\s+/g, ' ')
      : undefined;
  const name = field.name || 'value';
  if (row !== undefined && trace) {
    return (
      <section aria-label="Trace" className={BESIDE}>
        <TraceView
          bench={bench}
          step={step.id}
          field={field.id}
          name={name}
          expression={written.expression}
          trace={trace}
          onBack={() => setRow(undefined)}
          onPoint={onPoint}
        />
      </section>
    );
  }
  return (
    <section aria-label="Values" className={`flex flex-col ${BESIDE}`}>
      <div className="min-h-0 flex-1 overflow-auto">
        <FailureNotice failure={live.failure} />
        {live.rows && values && verdict?.type !== undefined ? (
          <LiveValues
            schema={scope.schema}
            name={name}
            type={verdict.type}
            rows={live.rows}
            used={verdict.used}
            values={values.values}
            part={part}
            onTrace={setRow}
          />
        ) : (
          <p className="px-3 py-2 text-ink-soft">{emptyWords(text, verdict, live.waiting)}</p>
        )}
      </div>
      {live.rows && values && (
        <p className="border-t px-2 py-1 text-meta text-ink-soft">
          {live.rows.rows.length} rows of the first {grouped(LIVE_AMONG)}, with nulls and extremes.
        </p>
      )}
    </section>
  );
}

function emptyWords(text: string, verdict: ReturnType<typeof useVerdict>, waiting: boolean): string {
  if (text.trim() === '') return 'Write an expression, and its value is shown here on a handful of rows.';
  if (verdict?.type === undefined && verdict !== undefined) return 'Its value is shown once the expression is understood.';
  return waiting ? 'Fetching a handful of rows …' : '';
}
