import { DialogTitle } from '@headlessui/react';
import { useState } from 'react';
import type { TextStep } from '@cendra/core';
import { sweptValues } from '@cendra/core';
import type { RoutineKeptDto, RoutinePreviewDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { ChoiceSlot } from '../bench/slots';
import type { Bench } from '../bench/use-bench';
import { Button } from '../ui/button';
import { grouped } from '../ui/format';
import { FailureNotice, ProblemLine } from '../ui/notice';
import { Overlay } from '../ui/overlay';
import { TextDifference } from '../ui/text-difference';

interface KeepAsFunctionProps {
  readonly bench: Bench;
  readonly step: TextStep;
  readonly schema: string;
  readonly onClose: () => void;
}

const IN_USE = 'the values in use';

/** A text or script becomes a function of its source: what would make it is shown first, then both are run and compared. */
export default function KeepAsFunction({ bench, step, schema, onClose }: KeepAsFunctionProps) {
  const { parameters } = bench.trail.definition;
  const asked = parameters.filter((each) => step.sql.refs.some((ref) => ref.parameter === each.id) && each.takes === 'one');
  const first = 'sweeps' in step ? step.sweeps?.[0] : undefined;
  const [name, setName] = useState('');
  const [swept, setSwept] = useState(first?.parameter ?? '');
  const [typed, setTyped] = useState(first?.values ?? '');
  const [preview, previewing] = api.useKeptRoutinesPreviewMutation();
  const [keep, keeping] = api.useKeptRoutinesKeepMutation();
  const parameter = asked.find((each) => each.id === swept);
  const read = sweptValues(typed, parameter?.type ?? 'text');
  const sets = parameter && read.ok ? read.values : [undefined];
  const body = { dataset: bench.id, revision: bench.bench.saved.revision, step: step.id, name };
  const shown = previewing.originalArgs?.routineToKeepDto.name === name ? previewing.data : undefined;
  const values = sets.map((each) => ({ ...wireValues(bench), ...(parameter && each ? { [parameter.id]: [...each] } : {}) }));
  const done = keeping.data;
  return (
    <Overlay place="top" look="flex max-h-full w-[56rem] max-w-full flex-col" onClose={onClose}>
      <DialogTitle className="border-b px-3 py-2 font-medium">Keep it as a function of its source</DialogTitle>
      <div className="min-h-0 flex-1 space-y-3 overflow-auto px-3 py-3">
        <form
          className="flex flex-wrap items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            keeping.reset();
            void preview({ routineToKeepDto: body });
          }}
        >
          <label className="block">
            <span className="block text-meta text-ink-soft">Name, in the schema {schema}</span>
            <input
              autoFocus
              value={name}
              maxLength={63}
              placeholder="kilos_of_season"
              onChange={(event) => setName(event.target.value.toLowerCase().replace(/[^a-z0-9_]/g, '_'))}
              className="h-8 w-72 rounded border bg-paper px-2 font-mono"
            />
          </label>
          <Button type="submit" disabled={!/^[a-z_]/.test(name) || previewing.isLoading || bench.bench.pending.length > 0}>
            Show what would be made
          </Button>
        </form>
        <FailureNotice failure={failureOf(previewing.error ?? keeping.error)} />
        {shown?.problems.map((each, at) => (
          <div key={at} role="alert">
            <ProblemLine problem={each} />
          </div>
        ))}
        {shown && shown.problems.length === 0 && !done && (
          <>
            <Shown preview={shown} />
            <p className="flex flex-wrap items-center gap-2">
              Then both are run and compared, for
              <ChoiceSlot
                label="Values they are compared for"
                value={parameter ? `each value of :${parameter.name}` : IN_USE}
                choices={[IN_USE, ...asked.map((each) => `each value of :${each.name}`)]}
                onChange={(choice) => setSwept(asked.find((each) => `each value of :${each.name}` === choice)?.id ?? '')}
              />
              {parameter && (
                <input
                  aria-label="Values to compare"
                  value={typed}
                  placeholder="a, b, c, or 2021 … 2025 by 1"
                  onChange={(event) => setTyped(event.target.value)}
                  className="slot w-64 font-mono"
                />
              )}
            </p>
            {parameter && typed !== '' && !read.ok && (
              <ProblemLine problem={{ severity: 'error', message: 'These are no values to compare.', expected: read.expected }} />
            )}
          </>
        )}
        {done && (
          <Compared kept={done} labels={sets.map((each) => (parameter && each ? `${parameter.name} ${each.join(', ')}` : IN_USE))} />
        )}
      </div>
      <div className="flex justify-end gap-2 border-t px-3 py-2">
        <Button small onClick={onClose}>
          {done ? 'Close' : 'Leave it'}
        </Button>
        {shown && shown.problems.length === 0 && !done && (
          <Button
            small
            kind="primary"
            disabled={keeping.isLoading || (parameter !== undefined && !read.ok)}
            onClick={() => void keep({ keepRoutineDto: { ...body, statement: shown.statement, values } })}
          >
            {shown.existing === null ? 'Make it' : 'Take its place'}
          </Button>
        )}
      </div>
    </Overlay>
  );
}

const wireValues = ({ values }: Bench): Record<string, string[]> =>
  Object.fromEntries(Object.entries(values).map(([id, given]) => [id, [...given]]));

function Shown({ preview: { statement, existing } }: { readonly preview: RoutinePreviewDto }) {
  return existing === null ? (
    <>
      <p className="text-ink-soft">This statement makes it, by the sign-in the steward gave for that:</p>
      <pre aria-label="What would be made" tabIndex={0} className="max-h-72 overflow-auto border bg-panel px-3 py-2 font-mono text-meta">
        {statement}
      </pre>
    </>
  ) : (
    <>
      <p className="text-amber">There is such a function already. It would be taken away, and its text kept in the history:</p>
      <div className="max-h-72 overflow-auto">
        <TextDifference label="What would be other in it" from={existing} to={statement} />
      </div>
    </>
  );
}

function Compared({
  kept: { signature, compared, problems },
  labels,
}: {
  readonly kept: RoutineKeptDto;
  readonly labels: readonly string[];
}) {
  const other = compared.filter((each) => !each.same).length;
  return (
    <>
      <p role="status" className={other > 0 ? 'text-rust' : ''}>
        {signature} is made.{' '}
        {compared.length > 0 &&
          (other === 0 ? 'It gives the same rows as the text.' : `It gives other rows than the text for ${other} of ${compared.length}.`)}
      </p>
      {problems.map((each, at) => (
        <ProblemLine key={at} problem={each} />
      ))}
      {compared.length > 0 && (
        <table aria-label="Both compared" className="figures border-t">
          <thead className="text-left text-meta text-ink-soft">
            <tr className="border-b">
              <th className="w-56 py-0.5 font-normal">for</th>
              <th className="w-32 text-right font-normal">rows of the text</th>
              <th className="w-36 text-right font-normal">of the function</th>
              <th className="pl-6 font-normal" />
            </tr>
          </thead>
          <tbody>
            {compared.map((each, at) => (
              <tr key={at} className="border-b">
                <td className="py-0.5">{labels[at]}</td>
                <td className="text-right">{grouped(each.rowsOfText)}</td>
                <td className="text-right">{grouped(each.rowsOfRoutine)}</td>
                <td className={`pl-6 ${each.same ? 'text-moss' : 'text-rust'}`}>{each.same ? 'the same rows' : 'other rows'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
