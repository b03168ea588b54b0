import { useMemo } from 'react';
import type { CheckedTrail, Edit, Layout, LayoutProperty, Role, SheetField, Total } from '@cendra/core';
import { allLevels, hasStretches, MOST_LEVELS, untakenFields } from '@cendra/core';
import { ChoiceSlot } from '../bench/slots';
import { mint } from '../bench/mint';
import type { Bench } from '../bench/use-bench';
import { Button } from '../ui/button';
import { AcrossSentence } from './across-sentence';
import { ChartSentence } from './chart-sentence';
import { fieldWords } from './field-words';
import { MarkLine } from './mark-line';
import { LevelSlots } from './level-slots';
import { TitleSentence } from './title-sentence';
import { TotalsSentence } from './totals-sentence';

interface LayoutSentenceProps {
  readonly bench: Bench;
  readonly layout: Layout & { readonly totals: readonly Total[] };
  readonly fields: readonly SheetField[];
  /** The result that is shown. */
  readonly result: string | undefined;
}

const GRAND_TOTALS = ['grand total shown', 'grand total before', 'no grand total'] as const;

/** How the proof reads the result, as a sentence: groups, totals, and what stands out. */
export function LayoutSentence({ bench, layout, fields, result }: LayoutSentenceProps) {
  const { edit, trail, withoutValues: locked } = bench;
  const written = bench.bench.definition.proof;
  const handed = fields.filter((each) => !each.forUseOnly);
  const setting = (property: LayoutProperty, to: unknown) => ({ kind: 'set proof', property, from: written[property], to }) as const;
  // A field that is not handed over yet is taken where it comes in, or calculated, by the same edit.
  const set = (property: LayoutProperty, to: unknown, before: readonly Edit[] = []) => edit(...before, setting(property, to));
  const more = useMemo(() => (locked ? [] : notTaken(trail, fields)), [locked, trail, fields]);
  const free = handed.filter((each) => !allLevels(layout).some(({ field }) => field === each.id));
  const words = fieldWords([...handed, ...more]);
  // Days stand in several levels, in longer and shorter stretches.
  const offered = (own: string) =>
    [...handed.filter((each) => each.id !== own && (hasStretches(each) || free.includes(each))), ...more].map((each) => each.id);
  const next = PREFERRED.flatMap((role) => free.filter((each) => each.role === role))[0] ?? free[0];
  const choices = { bench, handed, more, words, locked };
  const side = { ...choices, result, totals: layout.totals, offered };
  const add = () => next && set('levels', [...layout.levels, { field: next.id, descending: false, subtotal: true }]);
  return (
    <section aria-label="How the proof is read" className="max-h-44 shrink-0 space-y-1 overflow-y-auto border-b bg-panel px-4 py-2">
      <p className="flex flex-wrap items-center gap-x-1.5 gap-y-1">
        {layout.levels.length === 0 && <span className="text-ink-soft">Not grouped.</span>}
        {layout.levels.map((level, index) => (
          <LevelSlots
            {...side}
            key={`${level.field} ${level.stretch ?? ''}`}
            levels={layout.levels}
            index={index}
            named={`level ${index + 1}`}
            says={index === 0 ? 'Grouped by' : 'then by'}
            subtotals
            heads
            away={`Do not group by ${words.of(level.field)}`}
            onChange={(to, before) => set('levels', to, before)}
          />
        ))}
        {!locked && layout.levels.length < MOST_LEVELS && free.length > 0 && (
          <Button small kind="quiet" onClick={add}>
            {layout.levels.length === 0 ? 'Group by a field' : 'Add a level'}
          </Button>
        )}
        <AcrossSentence
          {...side}
          layout={layout}
          next={next}
          onSet={set}
          onExchange={({ levels, across, grandTotal, grandTotalFirst }) =>
            edit(
              setting('levels', levels),
              setting('across', across),
              setting('grandTotal', grandTotal),
              setting('grandTotalFirst', grandTotalFirst),
            )
          }
        />
        {layout.levels.length > 0 && !layout.across && (
          <ChoiceSlot
            label="Single rows"
            value={layout.rows ? 'single rows shown' : 'only groups shown'}
            choices={['single rows shown', 'only groups shown']}
            disabled={locked}
            onChange={(to) => set('rows', to === 'single rows shown')}
          />
        )}
        <ChoiceSlot
          label="Grand total"
          value={layout.grandTotal ? (layout.grandTotalFirst ? 'grand total before' : 'grand total shown') : 'no grand total'}
          choices={GRAND_TOTALS}
          disabled={locked}
          onChange={(to) => {
            const [shown, first] = [to !== 'no grand total', to === 'grand total before' ? (true as const) : undefined];
            edit(
              ...(shown === written.grandTotal ? [] : [setting('grandTotal', shown)]),
              ...(first === written.grandTotalFirst ? [] : [setting('grandTotalFirst', first)]),
            );
          }}
        />
      </p>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <TotalsSentence
          {...choices}
          totals={layout.totals}
          across={layout.across !== undefined}
          onChange={(to, before) => set('totals', to, before)}
        />
        <ChartSentence {...choices} layout={layout} onSet={set} />
      </div>
      <TitleSentence bench={bench} layout={written} fields={handed} locked={locked} onSet={set} />
      {layout.marks.length > 0 || written.marks.length > 0 ? (
        <ul aria-label="Marks">
          {written.marks.map((mark, index) => (
            <li key={mark.id}>
              <MarkLine
                {...choices}
                mark={mark}
                index={index}
                marks={written.marks}
                onChange={(to, before) =>
                  set(
                    'marks',
                    written.marks.map((each) => (each.id === mark.id ? to : each)),
                    before,
                  )
                }
                onAlso={(marks) => set('marks', written.marks.toSpliced(index + 1, 0, ...marks))}
                onAway={() =>
                  set(
                    'marks',
                    written.marks.filter((each) => each.id !== mark.id),
                  )
                }
              />
            </li>
          ))}
        </ul>
      ) : null}
      {!locked && handed[0] && (
        <Button
          small
          kind="quiet"
          onClick={() => {
            const field = handed.find((each) => each.role === 'measure') ?? handed[0];
            if (field)
              set('marks', [
                ...written.marks,
                { id: mint(), field: field.id, operator: field.role === 'measure' ? 'above' : 'has a value', operands: [], look: 'strong' },
              ]);
          }}
        >
          Mark values
        </Button>
      )}
    </section>
  );
}

/** What rows are grouped by first: seldom by what tells each of them apart, never by what is measured. */
const PREFERRED: readonly Role[] = ['attribute', 'date', 'code', 'key'];

/** Fields that are not taken yet, under names that say so. */
function notTaken(trail: CheckedTrail, fields: readonly SheetField[]): readonly SheetField[] {
  const untaken = untakenFields(trail);
  return fields.flatMap((each) => (each.forUseOnly && untaken.has(each.id) ? [{ ...each, label: `${each.label}, not taken yet` }] : []));
}
