import { useState } from 'react';
import type { BoundArgument, GivenArgument, ProcedureStep } from '@cendra/core';
import { addParameter, blankPasses, checkedOf, giveArgument, parameterForArgument, resultWords, typeWord } from '@cendra/core';
import { Button } from '../../ui/button';
import { RoleGlyph } from '../../ui/glyphs';
import { ProblemLine } from '../../ui/notice';
import { Tick } from '../../ui/tick';
import { RowWordsSlot } from '../join/row-words-slot';
import { mint } from '../mint';
import { StatementShown } from '../runnable/statement-shown';
import { ChoiceSlot } from '../slots';
import type { StepEditorProps } from '../step-kind';
import type { Bench } from '../use-bench';
import { ChangedSince } from './changed-since';

/** The rows of a function: what each argument is given, and which of its fields are taken. */
export default function ProcedureEditor({ bench, checked }: StepEditorProps) {
  const call = checkedOf('procedure', checked);
  if (!call) return null;
  const { step } = call;
  const chosenRows = !step.call && step.result?.of !== 'cursor';
  const changed = checked.problems.filter(({ code }) => code.startsWith('routine-'));
  return (
    <div className="px-3 py-2">
      <div className="flex flex-wrap items-center gap-2">
        <p>
          {capital(resultWords(step.result))} of{' '}
          <span className="slot font-mono">
            {step.schema}.{step.routine}
          </span>
          , taking <span className="figures">{step.taken.length}</span> of <span className="figures">{step.fields.length}</span> fields
          {chosenRows && (
            <>
              , called{' '}
              <ChoiceSlot
                label="How it is called"
                value={step.result ? IN_A_SESSION : IN_THE_STATEMENT}
                choices={[IN_THE_STATEMENT, IN_A_SESSION]}
                disabled={bench.withoutValues}
                onChange={(to) =>
                  bench.edit({
                    kind: 'set step',
                    step: step.id,
                    property: 'result',
                    from: step.result,
                    to: to === IN_A_SESSION ? { of: 'rows' } : undefined,
                  })
                }
              />
            </>
          )}
          . One is called
        </p>
        <RowWordsSlot
          bench={bench}
          label="What rows of the function are called"
          words={step.called ?? { row: `row of ${step.routine}`, rows: `rows of ${step.routine}` }}
          table={step}
        />
      </div>
      {changed.length > 0 && <ChangedSince bench={bench} step={step} problems={changed} />}
      <div className="mt-2 grid gap-4 lg:grid-cols-2">
        <section aria-label="Arguments">
          <h3 className="font-medium">Given to it</h3>
          {step.arguments.length === 0 ? (
            <p className="text-ink-soft">It takes nothing.</p>
          ) : (
            <ul className="border-t">
              {step.arguments.map((argument, at) => (
                <li key={at} className="border-b py-1">
                  <Argument bench={bench} step={step} argument={argument} at={at} />
                  {checked.problems
                    .filter(({ place }) => place.item === `${at}`)
                    .map((each, index) => (
                      <ProblemLine key={index} problem={each} />
                    ))}
                </li>
              ))}
            </ul>
          )}
          {!bench.withoutValues && !step.call && step.result?.of !== 'cursor' && <StatementShown bench={bench} checked={checked} />}
        </section>
        <Fields bench={bench} step={step} />
      </div>
    </div>
  );
}

const IN_THE_STATEMENT = 'in the statement';
const IN_A_SESSION = 'in a session of its own, where it may make temp tables';

const capital = (words: string) => `${words.charAt(0).toUpperCase()}${words.slice(1)}`;

interface ArgumentProps {
  readonly bench: Bench;
  readonly step: ProcedureStep;
  readonly argument: BoundArgument;
  readonly at: number;
}

const A_VALUE = 'a value …';
const NULL = 'null';
const NEW = 'a new parameter';
const defaultWords = (startsAs: string) => `its default, ${startsAs}`;

/** One argument: its name and type, and a slot for what it is given. */
function Argument({ bench, step, argument, at }: ArgumentProps) {
  const { definition } = bench.trail;
  const { name, sourceType, startsAs, given } = argument;
  const called = name || `argument ${at + 1}`;
  const [typing, setTyping] = useState(false);
  const parameter = given.by === 'parameter' ? definition.parameters.find((each) => each.id === given.parameter) : undefined;
  const passes = parameter && blankPasses(argument, parameter);
  const give = (to: GivenArgument) => bench.edit(...giveArgument(definition, step, at, to));
  const choose = (words: string) => {
    if (words === A_VALUE) return setTyping(true);
    if (words === NULL) return give({ by: 'null' });
    if (startsAs !== null && words === defaultWords(startsAs)) return give({ by: 'default' });
    if (words === NEW) return giveNew();
    const found = definition.parameters.find((each) => `:${each.name}` === words);
    if (found) give({ by: 'parameter', parameter: found.id });
  };
  const giveNew = () => {
    const fresh = parameterForArgument(argument, at, definition.parameters, mint);
    bench.edit(addParameter(definition, fresh), ...giveArgument(definition, step, at, { by: 'parameter', parameter: fresh.id }));
  };
  const value =
    given.by === 'value'
      ? given.value
      : given.by === 'null'
        ? NULL
        : given.by === 'default'
          ? startsAs === null
            ? NULL
            : defaultWords(startsAs)
          : `:${parameter?.name ?? '…'}`;
  return (
    <p className="flex flex-wrap items-center gap-2">
      <span className="w-32 truncate" title={called}>
        {called}
      </span>
      <span className="w-32 truncate text-ink-soft" title={sourceType}>
        {sourceType}
      </span>
      {typing ? (
        <input
          autoFocus
          aria-label={`Value for ${called}`}
          defaultValue={given.by === 'value' ? given.value : ''}
          placeholder={argument.several ? 'values with commas between' : sourceType}
          onBlur={(event) => {
            setTyping(false);
            const typed = event.target.value.trim();
            if (typed !== '') give({ by: 'value', value: typed });
          }}
          onKeyDown={(event) => {
            if (event.key === 'Enter') event.currentTarget.blur();
            if (event.key === 'Escape') {
              event.currentTarget.value = '';
              setTyping(false);
            }
          }}
          className="slot w-48"
        />
      ) : (
        <ChoiceSlot
          label={`What ${called} is given`}
          value={value}
          choices={[
            ...definition.parameters.map((each) => `:${each.name}`),
            ...(parameter ? [] : [NEW]),
            A_VALUE,
            ...(startsAs === null ? [] : [defaultWords(startsAs)]),
            NULL,
          ]}
          disabled={bench.withoutValues}
          onChange={choose}
        />
      )}
      {parameter && <span className="text-meta text-ink-soft">{passes === undefined ? 'must be filled' : `left blank: ${passes}`}</span>}
    </p>
  );
}

/** Its fields: those that are taken are handed on, the others are for use only; a key tells its rows apart. */
function Fields({ bench, step }: Pick<ArgumentProps, 'bench' | 'step'>) {
  const set = (property: 'taken' | 'key', to: readonly string[]) =>
    bench.edit({ kind: 'set step', step: step.id, property, from: step[property], to });
  const ticked = (of: readonly string[], id: string, on: boolean) => (on ? [...of, id] : of.filter((each) => each !== id));
  return (
    <section aria-label="Fields">
      <div className="flex items-center gap-2 pb-1">
        <h3 className="mr-auto font-medium">Gives</h3>
        {!bench.withoutValues && (
          <>
            <Button small onClick={() => set('taken', [...new Set([...step.taken, ...step.fields.map((each) => each.id)])])}>
              Take all
            </Button>
            <Button small disabled={step.taken.length === 0} onClick={() => set('taken', [])}>
              Take none
            </Button>
          </>
        )}
      </div>
      <table className="w-full border-t" aria-label="Fields of the function">
        <thead className="text-left text-meta text-ink-soft">
          <tr className="border-b">
            <th className="w-8 py-0.5 font-normal">take</th>
            <th className="pl-2 font-normal">field</th>
            <th className="font-normal">type</th>
            <th className="font-normal" title="These fields together tell rows apart">
              key
            </th>
          </tr>
        </thead>
        <tbody>
          {step.fields.map((field) => (
            <tr key={field.id} className="border-b">
              <td className="py-0.5">
                <Tick
                  checked={step.taken.includes(field.id)}
                  label={`Take ${field.name}`}
                  disabled={bench.withoutValues}
                  onChange={(on) => set('taken', ticked(step.taken, field.id, on))}
                />
              </td>
              <td className="pl-2">
                <span className="flex items-center gap-2">
                  <RoleGlyph role={field.role} />
                  {field.name}
                </span>
              </td>
              <td className="text-ink-soft" title={field.sourceType}>
                {typeWord(field.type)}
              </td>
              <td>
                <Tick
                  checked={step.key.includes(field.id)}
                  label={`${field.name} tells rows apart`}
                  disabled={bench.withoutValues}
                  onChange={(on) => set('key', ticked(step.key, field.id, on))}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
