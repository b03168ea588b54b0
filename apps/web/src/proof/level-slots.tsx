import { ChevronsLeft, Ellipsis } from 'lucide-react';
import { useState } from 'react';
import type { Edit, Level, Total } from '@cendra/core';
import { ChoiceSlot } from '../bench/slots';
import { AlsoSlot } from './also-slot';
import { Away } from './away';
import type { FieldChoices } from './field-or-expression';
import { FieldOrExpression } from './field-or-expression';
import { HeadsSlot } from './heads-slot';
import { inOrder, OrderSlot } from './order-slot';
import { ShownSlot } from './shown-slot';
import { StretchSlot } from './stretch-slot';

/** “Of several”: where there is more than one of what stands in the group. */
const SUBTOTALS = [
  'with subtotals',
  'with subtotals before',
  'with subtotals of several',
  'with subtotals of several before',
  'without subtotals',
] as const;
type Subtotals = (typeof SUBTOTALS)[number];

const subtotalsOf = ({ subtotal, ofSeveral, totalsFirst }: Level): Subtotals =>
  subtotal ? `with subtotals${ofSeveral ? ' of several' : ''}${totalsFirst ? ' before' : ''}` : 'without subtotals';

function withSubtotals({ ofSeveral: _several, totalsFirst: _first, ...level }: Level, to: Subtotals): Level {
  return {
    ...level,
    subtotal: to !== 'without subtotals',
    ...(to.endsWith('before') ? { totalsFirst: true } : {}),
    ...(to.includes('several') ? { ofSeveral: true } : {}),
  };
}

const GLYPH = { size: 14, strokeWidth: 1.75, 'aria-hidden': true } as const;
const ALL = 'all of them';
const FIRST: readonly number[] = [3, 5, 10, 20, 50];
const firstWords = (first: number | undefined) => (first === undefined ? ALL : `the first ${first}, the rest together`);

/** What both sides of a proof offer to their levels. */
export interface LevelSide extends FieldChoices {
  /** The result that is shown. */
  readonly result: string | undefined;
  readonly totals: readonly Total[];
  /** The fields that can stand in the place of one, by their ids. */
  readonly offered: (own: string) => readonly string[];
}

interface LevelSlotsProps extends LevelSide {
  readonly levels: readonly Level[];
  readonly index: number;
  /** “level 2”, by which its slots are told apart. */
  readonly named: string;
  /** What stands before its field. */
  readonly says: string;
  /** The last level across has none: its groups are the columns themselves. */
  readonly subtotals: boolean;
  /** Whether fields can be told at the head of its groups. */
  readonly heads: boolean;
  readonly away: string;
  /** With the edits by which a field comes to be handed over. */
  readonly onChange: (to: readonly Level[], before?: readonly Edit[]) => void;
}

/** One level of groups, as a part of the sentence. What is seldom said of one is in sight once it is, or asked for. */
export function LevelSlots({ levels, index, named, says, subtotals, heads, away, onChange, ...side }: LevelSlotsProps) {
  const { result, totals, offered, ...choices } = side;
  const { bench, handed, words, locked } = choices;
  const level = levels[index];
  const [more, setMore] = useState(false);
  if (!level) return null;
  const change = (to: Level, before?: readonly Edit[]) => onChange(levels.with(index, to), before);
  return (
    <span role="group" aria-label={named.replace(/^l/, 'L')} className="inline-flex items-center gap-1">
      {says}
      <FieldOrExpression
        bench={bench}
        label={`Field of ${named}`}
        value={level.field}
        offered={[level.field, ...offered(level.field)]}
        words={words}
        locked={locked}
        onField={(next, before) => {
          const { stretch: _stretch, shown: _shown, listed: _listed, also: _also, ...plain } = level;
          change({ ...plain, field: next.id }, before);
        }}
      />
      {(more || level.shown !== undefined) && <ShownSlot {...choices} label={`Shown field of ${named}`} level={level} onChange={change} />}
      <StretchSlot
        label={`Stretch of ${named}`}
        level={level}
        field={handed.find((each) => each.id === level.field)}
        locked={locked}
        onChange={({ also, ...to }) => change(to.stretch && also ? { ...to, also } : to)}
      />
      {heads && (more || level.heads !== undefined) && <HeadsSlot {...choices} named={named} level={level} onChange={change} />}
      <OrderSlot
        bench={bench}
        result={result}
        label={`Order of ${named}`}
        order={level}
        within={levels.slice(0, index + 1)}
        totals={totals}
        fields={handed}
        words={words}
        locked={locked}
        onChange={(to) => change(inOrder(level, to))}
      />
      {(more || level.first !== undefined) && (
        <ChoiceSlot
          label={`How many of ${named}`}
          value={firstWords(level.first)}
          choices={[ALL, ...new Set([...FIRST, ...(level.first === undefined ? [] : [level.first])].map(firstWords))]}
          disabled={locked}
          onChange={(said) => {
            const { first: _first, ...plain } = level;
            const first = Number(/\d+/.exec(said)?.[0] ?? 0);
            change(first > 0 ? { ...plain, first } : plain);
          }}
        />
      )}
      {(more || level.also !== undefined) && (
        <AlsoSlot
          bench={bench}
          label={`Groups of ${named} without rows`}
          level={level}
          field={handed.find((each) => each.id === level.field)}
          locked={locked}
          onChange={(also) => {
            const { also: _also, ...plain } = level;
            change(also ? { ...plain, also } : plain);
          }}
        />
      )}
      {subtotals && (
        <ChoiceSlot
          label={`Subtotals of ${named}`}
          value={subtotalsOf(level)}
          choices={SUBTOTALS}
          disabled={locked}
          onChange={(to) => change(withSubtotals(level, to))}
        />
      )}
      {!locked && (
        <button
          type="button"
          aria-expanded={more}
          aria-label={`More of ${named}`}
          title={more ? 'Less of this level' : 'What else can be said of this level'}
          onClick={() => setMore(!more)}
          className="px-0.5 text-ink-faint hover:text-ink"
        >
          {more ? <ChevronsLeft {...GLYPH} /> : <Ellipsis {...GLYPH} />}
        </button>
      )}
      <Away label={away} hidden={locked} onClick={() => onChange(levels.toSpliced(index, 1))} />
    </span>
  );
}
