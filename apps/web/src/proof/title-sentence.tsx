import type { Layout, LayoutProperty, SheetField } from '@cendra/core';
import {
  keptFigures,
  keptWords,
  listedWords,
  NOTE_MOST,
  TITLE_MOST,
  typedFigures,
  typedWords,
  unknownFigures,
  unknownInWords,
  wordsOf,
} from '@cendra/core';
import { TextSlot } from '../bench/slots';
import { LinkSlot, useAstray } from '../fields/link-slot';
import type { Bench } from '../bench/use-bench';
import { tooLong } from '../ui/format';
import { ProblemLine } from '../ui/notice';

interface TitleSentenceProps {
  readonly bench: Bench;
  readonly layout: Layout;
  readonly fields: readonly SheetField[];
  readonly locked: boolean;
  onSet(property: LayoutProperty, to: string | undefined): void;
}

const MOST = { title: TITLE_MOST, subtitle: TITLE_MOST, note: NOTE_MOST } as const;

/** The proof's title, its subtitle and what is said below them, by hand: `:name` stands for a parameter's value, `[sum of Kilos]` for a figure. */
export function TitleSentence({ bench, layout, fields, locked, onSet }: TitleSentenceProps) {
  const { parameters } = bench.trail.definition;
  const kept = (typed: string) => keptFigures(keptWords(typed.trim(), parameters), fields);
  const slot = (property: keyof typeof MOST) => ({
    value: layout[property] === undefined ? '' : typedFigures(typedWords(layout[property], parameters), fields),
    disabled: locked,
    refuses: (typed: string) => tooLong(kept(typed), MOST[property]),
    onKeep: (typed: string) => onSet(property, kept(typed) || undefined),
  });
  const { link } = layout;
  const astray = useAstray(link, fields);
  // Groups are of many rows, and lead nowhere.
  const rowsLead = layout.rows && !layout.across;
  const words = wordsOf(layout);
  if (locked && words.length === 0 && link === undefined) return null;
  const unknown = words.flatMap(unknownInWords);
  const figures = words.flatMap(unknownFigures);
  return (
    <div>
      <p className="flex flex-wrap items-center gap-x-1.5 gap-y-1">
        Titled
        <TextSlot label="Title of the proof" placeholder="as the sentence above" {...slot('title')} />
        subtitled
        <TextSlot label="Subtitle of the proof" placeholder="none" {...slot('subtitle')} />
        with the note
        <TextSlot label="Note below the title" placeholder="none" {...slot('note')} />
        {rowsLead && (
          <>
            where a row leads to
            <LinkSlot
              label="Address its rows lead to"
              link={link}
              fields={fields}
              example={fields.find((each) => each.role === 'key') ?? fields.find((each) => each.role === 'code') ?? fields[0]}
              locked={locked}
              onKeep={(to) => onSet('link', to)}
            />
          </>
        )}
      </p>
      {astray.map((each) => (
        <ProblemLine key={each.code} problem={each} />
      ))}
      {figures.length > 0 && (
        <ProblemLine
          problem={{
            severity: 'warning',
            message: `No field is called as in ${listedWords(figures)}.`,
            expected: 'a total of a field that is handed over, such as [sum of Kilos]',
          }}
        />
      )}
      {unknown.length > 0 && (
        <ProblemLine
          problem={{
            severity: 'warning',
            message: `There is no parameter ${listedWords(unknown.map((each) => `:${each}`))}.`,
            expected: parameters.length === 0 ? 'words alone' : `one of ${listedWords(parameters.map(({ name }) => `:${name}`))}`,
          }}
        />
      )}
    </div>
  );
}
