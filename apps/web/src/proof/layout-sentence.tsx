import { useMemo } from 'react';
import type { Across, CheckedTrail, Layout, LayoutProperty, Level, Role, SheetField, Total } from '@cendra/core';
import { EMPTY_CELLS, hasStretches, MOST_LEVELS, takeFieldEdits, untakenFields } from '@cendra/core';
import { ChoiceSlot } from '../bench/slots';
import { mint } from '../bench/mint';
import type { Bench } from '../bench/use-bench';
import { Button } from '../ui/button';
import { Away } from './away';
import { ChartSentence } from './chart-sentence';
import { fieldWords } from './field-words';
import { MarkLine } from './mark-line';
import { inOrder, OrderSlot } from './order-slot';
import { StretchSlot } from './stretch-slot';
import { TitleSentence } from './title-sentence';
import { TotalsSentence } from './totals-sentence';

interface LayoutSentenceProps {
  readonly bench: Bench;
  readonly layout: Layout & { readonly totals: readonly Total[] };
  readonly fields: readonly SheetField[];
  /** The result that is shown. */
  readonly result: string | undefined;
}

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

const GRAND_TOTALS = ['grand total shown', 'grand total before', 'no grand total'] as const;
const OVER_COLUMNS = ['with totals behind', 'with totals before', 'without totals'] as const;

/** How the proof reads the result, as a sentence: groups, totals, and what stands out. */
export function LayoutSentence({ bench, layout, fields, result }: LayoutSentenceProps) {
  const { edit, trail, withoutValues: locked } = bench;
  const written = bench.bench.definition.proof;
  const handed = fields.filter((each) => !each.forUseOnly);
  const setting = (property: LayoutProperty, to: unknown) => ({ kind: 'set proof', property, from: written[property], to }) as const;
  // A field that is not taken yet is taken where it comes in, by the same edit.
  const set = (property: LayoutProperty, to: unknown, field?: SheetField) =>
    edit(...(field?.forUseOnly ? takeFieldEdits(trail, field.id) : []), setting(property, to));
  const more = useMemo(() => (locked ? [] : notTaken(trail, fields)), [locked, trail, fields]);
  const free = handed.filter((each) => !layout.levels.some(({ field }) => field === each.id) && layout.across?.field !== each.id);
  const words = fieldWords([...handed, ...more]);
  // Days stand in several levels, in longer and shorter stretches.
  const offered = (own: string) =>
    [...handed.filter((each) => each.id !== own && (hasStretches(each) || free.includes(each))), ...more].map((each) => each.id);
  const next = PREFERRED.flatMap((role) => free.filter((each) => each.role === role))[0] ?? free[0];
  const add = () => next && set('levels', [...layout.levels, { field: next.id, descending: false, subtotal: true }]);
  return (
    <section aria-label="How the proof is read" className="max-h-44 shrink-0 space-y-1 overflow-y-auto border-b bg-panel px-4 py-2">
      <p className="flex flex-wrap items-center gap-x-1.5 gap-y-1">
        {layout.levels.length === 0 && <span className="text-ink-soft">Not grouped.</span>}
        {layout.levels.map((level, index) => (
          <span
            key={`${level.field} ${level.stretch ?? ''}`}
            role="group"
            aria-label={`Level ${index + 1}`}
            className="inline-flex items-center gap-1"
          >
            {index === 0 ? 'Grouped by' : 'then by'}
            <ChoiceSlot
              label={`Field of level ${index + 1}`}
              value={words.of(level.field)}
              choices={[level.field, ...offered(level.field)].map(words.of)}
              disabled={locked}
              onChange={(word) => {
                const { stretch: _stretch, listed: _listed, ...plain } = level;
                const next = words.field(word);
                set('levels', layout.levels.with(index, { ...plain, field: next?.id ?? level.field }), next);
              }}
            />
            <StretchSlot
              label={`Stretch of level ${index + 1}`}
              level={level}
              field={handed.find((each) => each.id === level.field)}
              locked={locked}
              onChange={(to) => set('levels', layout.levels.with(index, to))}
            />
            <OrderSlot
              bench={bench}
              result={result}
              label={`Order of level ${index + 1}`}
              order={level}
              within={layout.levels.slice(0, index + 1)}
              totals={layout.totals}
              fields={handed}
              words={words}
              locked={locked}
              onChange={(to) => set('levels', layout.levels.with(index, inOrder(level, to)))}
            />
            <ChoiceSlot
              label={`Subtotals of level ${index + 1}`}
              value={subtotalsOf(level)}
              choices={SUBTOTALS}
              disabled={locked}
              onChange={(to) => set('levels', layout.levels.with(index, withSubtotals(level, to)))}
            />
            <Away
              label={`Do not group by ${words.of(level.field)}`}
              hidden={locked}
              onClick={() => set('levels', layout.levels.toSpliced(index, 1))}
            />
          </span>
        ))}
        {!locked && layout.levels.length < MOST_LEVELS && free.length > 0 && (
          <Button small kind="quiet" onClick={add}>
            {layout.levels.length === 0 ? 'Group by a field' : 'Add a level'}
          </Button>
        )}
        <AcrossSentence
          bench={bench}
          result={result}
          layout={layout}
          handed={handed}
          free={free}
          offered={offered}
          words={words}
          locked={locked}
          onSet={set}
          onExchange={(levels, across) => edit(setting('levels', levels), setting('across', across))}
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
          totals={layout.totals}
          handed={handed}
          more={more}
          locked={locked}
          onChange={(to, field) => set('totals', to, field)}
        />
        <ChartSentence layout={layout} handed={handed} locked={locked} onSet={set} />
      </div>
      <TitleSentence bench={bench} layout={written} locked={locked} onSet={set} />
      {layout.marks.length > 0 || written.marks.length > 0 ? (
        <ul aria-label="Marks">
          {written.marks.map((mark, index) => (
            <li key={mark.id}>
              <MarkLine
                mark={mark}
                index={index}
                marks={written.marks}
                parameters={trail.definition.parameters}
                fields={handed}
                locked={locked}
                onChange={(to) =>
                  set(
                    'marks',
                    written.marks.map((each) => (each.id === mark.id ? to : each)),
                  )
                }
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

interface AcrossSentenceProps extends Pick<LayoutSentenceProps, 'bench' | 'result'> {
  readonly layout: LayoutSentenceProps['layout'];
  readonly handed: readonly SheetField[];
  readonly free: readonly SheetField[];
  /** What can stand across besides a field. */
  readonly offered: (own: string) => readonly string[];
  readonly words: ReturnType<typeof fieldWords>;
  readonly locked: boolean;
  onSet(property: LayoutProperty, to: unknown, field?: SheetField): void;
  onExchange(levels: readonly Level[], across: Across): void;
}

/** What stands across, one column per value, and changing places with what stands down. */
function AcrossSentence({
  bench,
  result,
  layout: { across, levels, totals },
  handed,
  free,
  offered,
  words,
  locked,
  onSet,
  onExchange,
}: AcrossSentenceProps) {
  const last = levels[levels.length - 1];
  const first = PREFERRED.flatMap((role) => free.filter((each) => each.role === role))[0];
  if (!across)
    return !locked && first ? (
      <Button small kind="quiet" onClick={() => onSet('across', { field: first.id, descending: false, total: true })}>
        One column per value
      </Button>
    ) : null;
  const exchange = () => {
    if (!last) return;
    const { total, empty, totalsFirst: before, ...order } = across;
    const { subtotal, ofSeveral, totalsFirst, ...wasDown } = last;
    onExchange(
      [...levels.slice(0, -1), { ...order, subtotal, ...(totalsFirst ? { totalsFirst } : {}), ...(ofSeveral ? { ofSeveral } : {}) }],
      { ...wasDown, total, ...(before ? { totalsFirst: before } : {}), ...(empty ? { empty } : {}) },
    );
  };
  return (
    <span role="group" aria-label="Across" className="inline-flex items-center gap-1">
      one column per
      <ChoiceSlot
        label="Field across"
        value={words.of(across.field)}
        choices={[across.field, ...offered(across.field)].map(words.of)}
        disabled={locked}
        onChange={(word) => {
          const { stretch: _stretch, listed: _listed, ...plain } = across;
          const next = words.field(word);
          onSet('across', { ...plain, field: next?.id ?? across.field }, next);
        }}
      />
      <StretchSlot
        label="Stretch across"
        level={across}
        field={handed.find((each) => each.id === across.field)}
        locked={locked}
        onChange={(to) => onSet('across', to)}
      />
      <OrderSlot
        bench={bench}
        result={result}
        label="Order of the columns"
        order={across}
        within={[{ ...across, subtotal: false }]}
        totals={totals}
        fields={handed}
        words={words}
        locked={locked}
        onChange={(to) => onSet('across', inOrder(across, to))}
      />
      <ChoiceSlot
        label="Totals over the columns"
        value={across.total ? (across.totalsFirst ? 'with totals before' : 'with totals behind') : 'without totals'}
        choices={OVER_COLUMNS}
        disabled={locked}
        onChange={(to) => {
          const { totalsFirst: _first, ...plain } = across;
          onSet('across', { ...plain, total: to !== 'without totals', ...(to === 'with totals before' ? { totalsFirst: true } : {}) });
        }}
      />
      <ChoiceSlot
        label="Where there are no rows"
        value={across.empty ?? 'blank'}
        choices={EMPTY_CELLS}
        disabled={locked}
        onChange={(to) => onSet('across', { ...across, empty: to })}
      />
      <span>where there are no rows</span>
      <Away label={`No columns per ${words.of(across.field)}`} hidden={locked} onClick={() => onSet('across', undefined)} />
      {!locked && last && (
        <Button small kind="quiet" onClick={exchange}>
          Exchange down and across
        </Button>
      )}
    </span>
  );
}

/** What rows are grouped by first: seldom by what tells each of them apart, never by what is measured. */
const PREFERRED: readonly Role[] = ['attribute', 'date', 'code', 'key'];

/** Fields that are not taken yet, under names that say so. */
function notTaken(trail: CheckedTrail, fields: readonly SheetField[]): readonly SheetField[] {
  const untaken = untakenFields(trail);
  return fields.flatMap((each) => (each.forUseOnly && untaken.has(each.id) ? [{ ...each, label: `${each.label}, not taken yet` }] : []));
}
