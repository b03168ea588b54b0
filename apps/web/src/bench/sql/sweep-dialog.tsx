import { DialogTitle, Input } from '@headlessui/react';
import { useState } from 'react';
import type { Question, SqlStep, Swept, SweptLine } from '@cendra/core';
import { sweptValues, SWEPT_FIELDS } from '@cendra/core';
import { useAnswer } from '../../runs/use-answer';
import { Button } from '../../ui/button';
import { FailureNotice, ProblemLine } from '../../ui/notice';
import { Overlay } from '../../ui/overlay';
import { Tick } from '../../ui/tick';
import { mint } from '../mint';
import { ChoiceSlot, TextSlot } from '../slots';
import type { Bench } from '../use-bench';

interface SweepDialogProps {
  readonly bench: Bench;
  readonly step: SqlStep;
  readonly onClose: () => void;
}

/** A text run once for each of some values of a parameter: where one value looks right, a list shows the edge. */
export default function SweepDialog({ bench, step, onClose }: SweepDialogProps) {
  const parameters = bench.trail.definition.parameters.filter((each) => step.sql.refs.some((ref) => ref.parameter === each.id));
  const [chosen, setChosen] = useState(parameters[0]?.id ?? '');
  const [typed, setTyped] = useState('');
  const [fields, setFields] = useState<readonly string[]>(() => telling(step));
  const [name, setName] = useState('');
  const [asked, setAsked] = useState<Question & { kind: 'sweep' }>();
  const { answer, failure, waiting } = useAnswer(bench, asked);
  const parameter = parameters.find((each) => each.id === chosen);
  const read = sweptValues(typed, parameter?.type ?? 'text');
  const own = parameter?.choices?.from === 'typed' ? parameter.choices.items : [];
  const run = () => {
    if (parameter && read.ok) setAsked({ kind: 'sweep', step: step.id, parameter: parameter.id, values: read.values, fields });
  };
  const setKept = (to: SqlStep['sweeps']) => bench.edit({ kind: 'set step', step: step.id, property: 'sweeps', from: step.sweeps, to });
  const keep = () => {
    if (!parameter || name.trim() === '') return;
    setKept([...(step.sweeps ?? []), { id: mint(), name: name.trim(), parameter: parameter.id, values: typed, fields }]);
    setName('');
  };
  return (
    <Overlay place="top" look="flex w-[56rem] max-w-full flex-col" onClose={onClose}>
      <DialogTitle className="border-b px-3 py-2 font-medium">Sweep: the text for each of some values</DialogTitle>
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
            For each value of
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
            {own.length > 0 && (
              <Button small onClick={() => setTyped(own.map((each) => each.value).join(', '))}>
                Its choices
              </Button>
            )}
            <Button
              small
              kind="primary"
              disabled={
                !parameter || !read.ok || bench.trail.problems.some((each) => each.place.step === step.id && each.severity === 'error')
              }
              onClick={run}
            >
              Sweep
            </Button>
          </p>
        </form>
        {typed.trim() !== '' && !read.ok && (
          <ProblemLine problem={{ severity: 'error', message: 'These are no values to sweep.', expected: read.expected }} />
        )}
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
        <FailureNotice failure={failure} />
        {asked && waiting && (
          <p role="status" className="mt-2 text-ink-soft">
            Running it {asked.values.length} times, in one moment …
          </p>
        )}
        {answer && <SweptTable swept={answer} onOpen={(line) => (bench.setValues(answer.parameter, line.values), onClose())} />}
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

function SweptTable({ swept, onOpen }: { readonly swept: Swept; readonly onOpen: (line: SweptLine) => void }) {
  return (
    <div className="mt-2 overflow-x-auto">
      <table aria-label="What the sweep found" className="figures w-full border-t">
        <thead className="text-left text-meta text-ink-soft">
          <tr className="border-b">
            <th scope="col" className="py-0.5 font-normal">
              value
            </th>
            <th scope="col" className="text-right font-normal">
              rows
            </th>
            {swept.fields.flatMap(({ field, name, sums }) => [
              <th key={`${field} least`} scope="col" className="pl-4 text-right font-normal">
                least {name}
              </th>,
              <th key={`${field} greatest`} scope="col" className="pl-4 text-right font-normal">
                greatest {name}
              </th>,
              ...(sums
                ? [
                    <th key={`${field} sum`} scope="col" className="pl-4 text-right font-normal">
                      sum of {name}
                    </th>,
                  ]
                : []),
            ])}
            <th />
          </tr>
        </thead>
        <tbody>
          {swept.lines.map((line, index) => (
            <tr key={index} className="border-b">
              <th scope="row" className="py-0.5 text-left font-mono font-normal">
                {line.values.join(' … ')}
              </th>
              {line.problem !== undefined ? (
                <td colSpan={2 + 3 * swept.fields.length} className="text-rust">
                  {line.problem}
                </td>
              ) : (
                <>
                  <td className="text-right">{line.rows}</td>
                  {line.figures.flatMap(({ least, greatest, sum }, at) => [
                    <Figure key={`${at} least`} value={least} />,
                    <Figure key={`${at} greatest`} value={greatest} />,
                    ...(swept.fields[at]?.sums ? [<Figure key={`${at} sum`} value={sum} />] : []),
                  ])}
                  <td className="pl-4 text-right">
                    <Button small kind="quiet" onClick={() => onOpen(line)} aria-label={`Rows for ${line.values.join(' … ')}`}>
                      Rows
                    </Button>
                  </td>
                </>
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

const Figure = ({ value }: { readonly value: string | null }) => (
  <td className="max-w-48 truncate pl-4 text-right">{value ?? <span className="text-ink-faint">null</span>}</td>
);
