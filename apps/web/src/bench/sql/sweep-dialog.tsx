import { DialogTitle, Input } from '@headlessui/react';
import { useEffect, useMemo, useState } from 'react';
import type { Parameter, PartText, Question, Span, SqlStep, TextStatement } from '@cendra/core';
import { parametersIn, partOf, SWEPT_FIELDS, sweptValues, typedValues } from '@cendra/core';
import { useAnswer } from '../../runs/use-answer';
import { Button } from '../../ui/button';
import { FailureNotice, ProblemLine } from '../../ui/notice';
import { Overlay } from '../../ui/overlay';
import { Tick } from '../../ui/tick';
import { mint } from '../mint';
import { ChoiceSlot, TextSlot } from '../slots';
import type { Bench } from '../use-bench';
import { useDescribedParts } from './part-dialog';
import { SweptTable } from './swept-table';

interface SweepDialogProps {
  readonly bench: Bench;
  readonly step: SqlStep;
  readonly text: string;
  /** The only one of the text; undefined where it has several or none. */
  readonly statement: TextStatement | undefined;
  /** What is chosen in it: then that is swept. */
  readonly selection: Span;
  readonly onClose: () => void;
}

const WHOLE = 'the whole text';

/** A text, or a part of it, run once for each of some values of a parameter: where one value looks right, a list shows the edge. */
export default function SweepDialog({ bench, step, text, statement, selection, onClose }: SweepDialogProps) {
  const selected = text.slice(selection.from, selection.to).trim();
  const [of, setOf] = useState<string | undefined>(selected === '' ? undefined : selected);
  const part = useMemo(() => (of === undefined ? undefined : partIn(text, statement, of, selection)), [text, statement, of, selection]);
  const texts = useMemo(() => (part?.ok ? [part.text] : []), [part]);
  const { parts, wrong } = useDescribedParts(bench, step, texts);
  const described = parts?.find((each) => each.text === texts[0]);
  const named = new Set(part?.ok ? parametersIn(part.text).map((each) => each.name) : step.sql.refs.map((each) => each.name));
  const parameters = bench.trail.definition.parameters.filter((each) =>
    step.sql.refs.some((ref) => ref.parameter === each.id && named.has(ref.name)),
  );
  const [chosen, setChosen] = useState(parameters[0]?.id ?? '');
  const [typed, setTyped] = useState('');
  const [fields, setFields] = useState<readonly string[]>(() => telling(step));
  const [name, setName] = useState('');
  const [asked, setAsked] = useState<Omit<Question & { kind: 'sweep' }, 'part'>>();
  // A part is asked once its source has described it, however soon that was wanted.
  const question = !asked || of === undefined ? asked : described && { ...asked, fields: [], part: described };
  const { answer, failure, waiting } = useAnswer(bench, question);
  const parameter = parameters.find((each) => each.id === chosen) ?? parameters[0];
  const read = sweptValues(typed, parameter?.type ?? 'text');
  const offered = useChoices(bench, parameter, setTyped);
  const ready =
    of === undefined ? !bench.trail.problems.some((each) => each.place.step === step.id && each.severity === 'error') : part?.ok === true;
  const run = () => {
    if (parameter && read.ok && ready) setAsked({ kind: 'sweep', step: step.id, parameter: parameter.id, values: read.values, fields });
  };
  const setKept = (to: SqlStep['sweeps']) => bench.edit({ kind: 'set step', step: step.id, property: 'sweeps', from: step.sweeps, to });
  const keep = () => {
    if (!parameter || name.trim() === '') return;
    const kept = { id: mint(), name: name.trim(), parameter: parameter.id, values: typed, fields };
    setKept([...(step.sweeps ?? []), of === undefined ? kept : { ...kept, part: of }]);
    setName('');
  };
  return (
    <Overlay place="top" look="flex w-[56rem] max-w-full flex-col" onClose={onClose}>
      <DialogTitle className="border-b px-3 py-2 font-medium">Sweep: rows for each of some values</DialogTitle>
      <div className="min-h-0 overflow-auto px-3 py-2">
        {(step.sweeps ?? []).length > 0 && (
          <ul aria-label="Sweeps kept" className="mb-2 flex flex-wrap gap-2">
            {(step.sweeps ?? []).map((kept) => (
              <li key={kept.id} className="flex items-center">
                <Button
                  small
                  onClick={() => {
                    setChosen(kept.parameter);
                    setTyped(kept.values);
                    setFields(kept.fields.filter((each) => step.fields.some(({ id }) => id === each)));
                    setOf(kept.part);
                    setAsked(undefined);
                  }}
                >
                  {kept.name}
                </Button>
                <Button
                  small
                  kind="quiet"
                  onClick={() => setKept(step.sweeps?.filter((each) => each !== kept))}
                  aria-label={`Let go of ${kept.name}`}
                >
                  Let go
                </Button>
              </li>
            ))}
          </ul>
        )}
        <form
          onSubmit={(event) => {
            event.preventDefault();
            run();
          }}
        >
          <p className="flex flex-wrap items-center gap-2">
            Sweep
            <ChoiceSlot
              label="What is swept"
              value={of === undefined ? WHOLE : shortened(of)}
              choices={[WHOLE, ...new Set([selected, of ?? ''].filter((each) => each !== '').map(shortened))]}
              disabled={of === undefined && selected === ''}
              onChange={(said) => {
                setOf(said === WHOLE ? undefined : [of, selected].find((each) => each !== undefined && shortened(each) === said));
                setAsked(undefined);
              }}
            />
            for each value of
            <ChoiceSlot
              label="Parameter to sweep"
              value={parameter ? `:${parameter.name}` : 'no parameter'}
              choices={parameters.map((each) => `:${each.name}`)}
              disabled={parameters.length < 2}
              onChange={(choice) => setChosen(parameters.find((each) => `:${each.name}` === choice)?.id ?? '')}
            />
            among
            <Input
              autoFocus
              aria-label="Values to sweep"
              placeholder={parameter?.type === 'date' ? '2025-04-01 … 2025-09-01 by 1 month' : 'a, b, c, or 2021 … 2025 by 1'}
              value={typed}
              onChange={(event) => setTyped(event.target.value)}
              className="slot w-72 font-mono"
            />
            {offered && (
              <Button small onClick={offered}>
                Its choices
              </Button>
            )}
            <Button small kind="primary" disabled={!parameter || !read.ok || !ready} onClick={run}>
              Sweep
            </Button>
          </p>
        </form>
        {typed.trim() !== '' && !read.ok && (
          <ProblemLine problem={{ severity: 'error', message: 'These are no values to sweep.', expected: read.expected }} />
        )}
        {part && !part.ok && <ProblemLine problem={{ severity: 'hint', message: part.because }} />}
        {part?.ok && parameters.length === 0 && (
          <ProblemLine problem={{ severity: 'hint', message: 'No parameter stands in this part, so it gives the same for every value.' }} />
        )}
        {of === undefined && (
          <ul aria-label="Fields to look at" className="mt-2 flex flex-wrap gap-x-4 gap-y-1">
            {step.fields.slice(0, 60).map((field) => (
              <li key={field.id} className="flex items-center gap-1.5">
                <Tick
                  checked={fields.includes(field.id)}
                  label={`Look at ${field.name}`}
                  disabled={!fields.includes(field.id) && fields.length >= SWEPT_FIELDS}
                  onChange={(on) => setFields(on ? [...fields, field.id] : fields.filter((each) => each !== field.id))}
                />
                {field.name}
              </li>
            ))}
          </ul>
        )}
        <FailureNotice failure={of === undefined ? failure : (wrong ?? failure)} />
        {asked && (waiting || !question) && !wrong && (
          <p role="status" className="mt-2 text-ink-soft">
            Running it {asked.values.length} times, in one moment …
          </p>
        )}
        {answer && (
          <SweptTable
            swept={answer}
            onOpen={of === undefined ? (line) => (bench.setValues(answer.parameter, line.values), onClose()) : undefined}
          />
        )}
      </div>
      <div className="flex flex-wrap items-center justify-end gap-2 border-t px-3 py-2">
        {!bench.withoutValues && (
          <span className="mr-auto flex items-center gap-2">
            <TextSlot label="Name to keep the sweep by" value={name} placeholder="a name to keep it by" disabled={false} onKeep={setName} />
            <Button small disabled={name.trim() === '' || !read.ok} onClick={keep}>
              Keep it
            </Button>
          </span>
        )}
        <Button small onClick={onClose}>
          Close
        </Button>
      </div>
    </Overlay>
  );
}

/** What tells most of a list of rows: a date and a measure, else whatever comes first. */
function telling({ fields }: SqlStep): readonly string[] {
  const first = (role: string) => fields.find((each) => each.role === role)?.id ?? [];
  const found = [first('date'), first('measure')].flat();
  return found.length > 0 ? found : fields.slice(0, 2).map((each) => each.id);
}

/** A part by its words: where it is chosen, else where they stand first. */
function partIn(text: string, statement: TextStatement | undefined, words: string, selection: Span): PartText {
  const near = text.indexOf(words, selection.from);
  const at = near >= 0 && near < selection.to ? near : text.indexOf(words);
  if (!statement || at < 0) return { ok: false, because: 'This part is not in the text any more.' };
  return partOf(text, statement, { from: at, to: at + words.length });
}

const shortened = (words: string) => {
  const line = words.replaceAll(/\s+/g, ' ');
  return line.length > 50 ? `${line.slice(0, 49)}…` : line;
};

/** Puts the choices of a parameter in the place of typed values; undefined where it has none. */
function useChoices(bench: Bench, parameter: Parameter | undefined, onTyped: (values: string) => void): (() => void) | undefined {
  const [asked, setAsked] = useState<string>();
  const { choices, id = '' } = parameter ?? {};
  const question =
    asked === id && choices && choices.from !== 'typed' ? ({ kind: 'choices', parameter: id, search: '' } as const) : undefined;
  const { answer } = useAnswer(bench, question);
  useEffect(() => {
    if (!answer) return;
    onTyped(typedValues(answer.values.flatMap(({ value }) => value ?? [])));
    setAsked(undefined);
  }, [answer, onTyped]);
  if (!choices) return undefined;
  return choices.from === 'typed' ? () => onTyped(typedValues(choices.items.map((each) => each.value))) : () => setAsked(id);
}
