import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { lazy, memo, Suspense, useState } from 'react';
import { nearestOf, valuesText } from '@cendra/core';
import type { MissingValue, Parameter, Problem } from '@cendra/core';
import { useAnswer } from '../../runs/use-answer';
import { ProblemLine } from '../../ui/notice';
import { showsSame } from '../shows-same';
import type { Bench } from '../use-bench';
import { NearestLine } from '../values/nearest-line';
import { knownChoices } from './known-choices';

const ValueField = lazy(() => import('./value-field'));
const ListDialog = lazy(() => import('../values/list-dialog').then(({ ListDialog: each }) => ({ default: each })));

interface ParameterSlotProps {
  readonly bench: Bench;
  readonly parameter: Parameter;
  /** In use, as they were given. */
  readonly values: readonly string[];
  readonly problem: Problem | undefined;
  /** What it comes to when it is left blank, where no condition asks with it. */
  readonly passes: string | undefined;
}

const BLANK = {
  'must be filled': 'left blank: it must be filled',
  'condition is off': 'left blank: the condition is off',
  'matches empty': 'left blank: it matches empty',
};

/** A parameter's values as a slot; it opens where they are given. Says what blank means, and values that are no choice any more. */
export const ParameterSlot = memo(function ParameterSlot({ bench, parameter, values, problem, passes }: ParameterSlotProps) {
  const blank = values.every((each) => each.trim() === '');
  const stale = useStale(bench, parameter, values);
  const words = valuesText(parameter, values, passes);
  const [asText, setAsText] = useState(false);
  return (
    <span className="inline-flex flex-wrap items-center gap-2">
      <Popover className={problem || stale.length > 0 ? 'wrong-slot' : 'inline-block'}>
        <PopoverButton aria-label={`${parameter.name}: ${words}`} className="slot slot-parameter">
          <span aria-hidden>:</span>
          {words}
        </PopoverButton>
        <PopoverPanel anchor="bottom start" focus className="z-40 mt-1 w-96 space-y-2 rounded border bg-paper p-3 shadow-md">
          {({ close }) => (
            <>
              {parameter.hint !== '' && <p className="text-ink-soft">{parameter.hint}</p>}
              <Suspense fallback={<p className="text-ink-soft">Opening …</p>}>
                <ValueField
                  bench={bench}
                  parameter={parameter}
                  values={values}
                  onKeep={(next) => bench.setValues(parameter.id, next)}
                  onDone={() => close()}
                  onOpenText={() => {
                    close();
                    setAsText(true);
                  }}
                />
              </Suspense>
              {problem && <ProblemLine problem={problem} />}
              <p className="text-meta text-ink-soft">
                {parameter.type}, {parameter.takes === 'range' ? 'a range' : parameter.takes};{' '}
                {passes === undefined ? BLANK[parameter.leftBlank] : `left blank: ${passes}`}.
              </p>
            </>
          )}
        </PopoverPanel>
      </Popover>
      {asText && (
        <Suspense fallback={null}>
          <ListDialog
            bench={bench}
            label={parameter.name}
            noun="values"
            values={values}
            known={knownChoices(parameter)}
            onKeep={(next) => bench.setValues(parameter.id, next)}
            onClose={() => setAsText(false)}
          />
        </Suspense>
      )}
      {problem && <ProblemLine problem={problem} />}
      {!problem &&
        stale
          .slice(0, 3)
          .map(({ value, nearest }) => (
            <NearestLine
              key={value}
              value={value}
              nearest={nearest}
              where="not among the choices now"
              onTake={(taken) => bench.setValues(parameter.id, [...new Set(values.map((each) => (each === value ? taken : each)))])}
            />
          ))}
      {!problem && stale.length > 3 && <span className="text-amber">and {stale.length - 3} more.</span>}
      {!problem && blank && passes === undefined && <span className="text-meta text-ink-soft">({parameter.leftBlank})</span>}
    </span>
  );
}, showsSame);

const MOST_CHECKED = 1_000;

/** Values that are not among the choices, as these are narrowed now. Days are free to be given anyway. */
function useStale(bench: Bench, parameter: Parameter, values: readonly string[]): readonly MissingValue[] {
  const { choices, type, takes } = parameter;
  const given = values.filter((each) => each !== '');
  const asks = given.length > 0 && given.length <= MOST_CHECKED && takes !== 'range' && type !== 'date' && type !== 'date-time';
  const looked = choices && choices.from !== 'typed';
  const { answer } = useAnswer(
    bench,
    asks && looked && !bench.withoutValues ? { kind: 'known choices', parameter: parameter.id, values: given } : undefined,
    200,
  );
  if (!asks || !choices) return [];
  if (choices.from === 'typed')
    return given.filter((each) => !choices.items.some(({ value }) => value === each)).map(nearestOf(choices.items));
  return answer?.missing ?? [];
}
