import type { ReactNode } from 'react';
import { useState } from 'react';
import { datasetSentence, equal } from '@cendra/core';
import type { SentencePart } from '@cendra/core';
import { ProblemLine } from '../ui/notice';
import { ParameterSlot } from './parameters/parameter-slot';
import { useValuesInUse } from './parameters/values-in-use';
import type { Bench } from './use-bench';

/** More parameters than this are not all told: those that stand as usual are only counted. */
const MOST_TOLD = 5;

interface SentenceBarProps {
  readonly bench: Bench;
  /** What can be done at its end. */
  readonly children?: ReactNode;
}

/** The dataset's sentence with the parameter values now in use; each is a slot changed in place. */
export function SentenceBar({ bench, children }: SentenceBarProps) {
  const { trail } = bench;
  const [whole, setWhole] = useState(false);
  const { problems, shown } = useValuesInUse(bench);
  const parts = datasetSentence(trail, shown);
  const problemOf = (id: string) => problems.find((each) => each.place.parameter === id);
  const usual = parts.filter((part) => 'parameter' in part && standsAsUsual(bench, part, problemOf(part.parameter.id) !== undefined));
  const many = parts.filter((part) => 'parameter' in part).length > MOST_TOLD && usual.length > 1;
  const told = many ? withoutUsual(parts, usual) : parts;
  const unplaced = problems.filter((each) => !parts.some((part) => 'parameter' in part && part.parameter.id === each.place.parameter));
  return (
    <section aria-label="Sentence" className="max-h-40 shrink-0 overflow-auto border-b px-3 py-1.5">
      <div className="flex min-h-7 flex-wrap items-center">
        {told.map((part, index) =>
          'text' in part ? (
            <span key={index} className="whitespace-pre-wrap">
              {part.text}
            </span>
          ) : (
            <ParameterSlot
              key={part.parameter.id}
              bench={bench}
              parameter={part.parameter}
              values={part.values}
              problem={problemOf(part.parameter.id)}
              passes={part.blank}
            />
          ),
        )}
        {many && (
          <button type="button" aria-expanded={whole} className="slot ml-1" onClick={() => setWhole(!whole)}>
            and {usual.length} as usual
          </button>
        )}
        {problems.length === 0 && <span>.</span>}
        {children}
      </div>
      {many && whole && (
        <ul aria-label="Parameters that stand as usual" className="mt-1 border-t">
          {usual.map((part) =>
            'parameter' in part ? (
              <li key={part.parameter.id} className="flex items-center justify-between border-b py-0.5">
                <span className="text-ink-soft">{part.parameter.name}</span>
                <ParameterSlot bench={bench} parameter={part.parameter} values={part.values} problem={undefined} passes={part.blank} />
              </li>
            ) : null,
          )}
        </ul>
      )}
      {unplaced.map((each, index) => (
        <ProblemLine key={index} problem={each} />
      ))}
    </section>
  );
}

function standsAsUsual({ values }: Bench, part: SentencePart, wrong: boolean): boolean {
  if (!('parameter' in part) || wrong) return false;
  const { id, leftBlank, startsAs } = part.parameter;
  return leftBlank !== 'must be filled' && (values[id] === undefined || equal(values[id], startsAs));
}

/** The sentence without some of its slots and the words before each. */
function withoutUsual(parts: readonly SentencePart[], usual: readonly SentencePart[]): readonly SentencePart[] {
  const [subject, ...rest] = parts.filter((part, index) => {
    const next = parts[index + 1];
    return !usual.includes(part) && !(index > 0 && 'text' in part && next !== undefined && usual.includes(next));
  });
  const [words] = rest;
  // The first that is left begins the conditions.
  const begins = subject && 'text' in subject && !subject.text.includes(' where ') && words && 'text' in words;
  return [...(subject ? [subject] : []), ...(begins ? [{ text: words.text.replace(/^ and /, ' where ') }, ...rest.slice(1)] : rest)];
}
