import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { useMemo } from 'react';
import { bindValues, datasetSentence, valuesText } from '@cendra/core';
import type { Parameter, Problem } from '@cendra/core';
import { ProblemLine } from '../ui/notice';
import type { Bench } from './use-bench';
import { ValueField } from './value-field';

/** The dataset's sentence with the parameter values now in use; each is a slot changed in place. */
export function SentenceBar({ bench }: { readonly bench: Bench }) {
  const { trail, values, setValues } = bench;
  const parts = datasetSentence(trail, values);
  const problems = useMemo(() => bindValues(trail.definition.parameters, values).problems, [trail.definition.parameters, values]);
  return (
    <section aria-label="Sentence" className="flex min-h-10 shrink-0 flex-wrap items-center border-b px-3 py-1.5">
      {parts.map((part, index) =>
        'text' in part ? (
          <span key={index} className="whitespace-pre-wrap">
            {part.text}
          </span>
        ) : (
          <ParameterSlot
            key={index}
            parameter={part.parameter}
            values={part.values}
            problem={problems.find((each) => each.place.parameter === part.parameter.id)}
            onChange={(next) => setValues(part.parameter.id, next)}
          />
        ),
      )}
      {problems.length === 0 && <span>.</span>}
    </section>
  );
}

interface ParameterSlotProps {
  readonly parameter: Parameter;
  readonly values: readonly string[];
  readonly problem: Problem | undefined;
  readonly onChange: (values: readonly string[]) => void;
}

const BLANK = {
  'must be filled': 'left blank: it must be filled',
  'condition is off': 'left blank: the condition is off',
  'matches empty': 'left blank: it matches empty',
};

export function ParameterSlot({ parameter, values, problem, onChange }: ParameterSlotProps) {
  const blank = values.every((each) => each.trim() === '');
  return (
    <span className="inline-flex flex-wrap items-center gap-2">
      <Popover className={problem ? 'wrong-slot' : 'inline-block'}>
        <PopoverButton aria-label={`${parameter.name}: ${valuesText(parameter, values)}`} className="slot slot-parameter">
          <span aria-hidden>:</span>
          {valuesText(parameter, values)}
        </PopoverButton>
        <PopoverPanel anchor="bottom start" focus className="z-40 mt-1 w-80 space-y-2 rounded border bg-paper p-3 shadow-md">
          {({ close }) => (
            <>
              <ValueField
                parameter={parameter}
                values={values}
                onKeep={(next) => {
                  onChange(next);
                  close();
                }}
              />
              {parameter.hint !== '' && <p className="text-ink-soft">{parameter.hint}</p>}
              {problem && <ProblemLine problem={problem} />}
              <p className="text-meta text-ink-soft">
                {parameter.type}, {parameter.takes === 'range' ? 'a range' : parameter.takes}; {BLANK[parameter.leftBlank]}.
              </p>
            </>
          )}
        </PopoverPanel>
      </Popover>
      {problem && <ProblemLine problem={problem} />}
      {!problem && blank && <span className="text-meta text-ink-soft">({parameter.leftBlank})</span>}
    </span>
  );
}
