import type { Across, Edit, Layout, LayoutProperty, Level, SheetField } from '@cendra/core';
import { EMPTY_CELLS, hasStretches, MOST_ACROSS_LEVELS } from '@cendra/core';
import { ChoiceSlot } from '../bench/slots';
import { Button } from '../ui/button';
import type { LevelSide } from './level-slots';
import { LevelSlots } from './level-slots';

const OVER_COLUMNS = ['with totals behind', 'with totals before', 'without totals'] as const;

const BESIDE = 'totals beside one another';
const BELOW = 'totals below one another';

interface AcrossSentenceProps extends LevelSide {
  readonly layout: Layout;
  /** What is begun with, or goes on. */
  readonly next: SheetField | undefined;
  onSet(property: LayoutProperty, to: unknown, before?: readonly Edit[]): void;
  onExchange(to: Partial<Layout>): void;
}

/** What stands across, one column per value, and changing places with what stands down. */
export function AcrossSentence({ layout, next, onSet, onExchange, ...side }: AcrossSentenceProps) {
  const { across } = layout;
  const { locked, words } = side;
  if (!across)
    return !locked && next ? (
      <Button small kind="quiet" onClick={() => onSet('across', { levels: [begun(next)], total: true } satisfies Across)}>
        One column per value
      </Button>
    ) : null;
  const { levels } = across;
  return (
    <span role="group" aria-label="Across" className="inline-flex flex-wrap items-center gap-1">
      {levels.map((level, index) => (
        <LevelSlots
          {...side}
          key={`${level.field} ${level.stretch ?? ''}`}
          levels={levels}
          index={index}
          named={`level ${index + 1} across`}
          says={index === 0 ? 'one column per' : 'then'}
          subtotals={index < levels.length - 1}
          heads={false}
          away={`No columns per ${words.of(level.field)}`}
          onChange={(to, before) => onSet('across', to.length > 0 ? { ...across, levels: to } : undefined, before)}
        />
      ))}
      {!locked && next && levels.length < MOST_ACROSS_LEVELS && (
        <Button small kind="quiet" onClick={() => onSet('across', { ...across, levels: [...levels, begun(next)] })}>
          Add a level across
        </Button>
      )}
      {side.totals.length > 1 && (
        <ChoiceSlot
          label="Where several totals stand"
          value={across.below ? BELOW : BESIDE}
          choices={[BESIDE, BELOW]}
          disabled={locked}
          onChange={(to) => {
            const { below: _below, ...plain } = across;
            onSet('across', to === BELOW ? { ...plain, below: true } : plain);
          }}
        />
      )}
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
      {!locked && layout.levels.length > 0 && layout.levels.length <= MOST_ACROSS_LEVELS && (
        <Button small kind="quiet" onClick={() => onExchange(exchanged(layout, across))}>
          Exchange down and across
        </Button>
      )}
    </span>
  );
}

/** Each day is seldom a column of its own. */
const begun = (field: SheetField): Level => ({
  field: field.id,
  ...(hasStretches(field) ? { stretch: 'month' as const } : {}),
  descending: false,
  subtotal: true,
});

/** What stands down across and what stands across down, each with its totals. */
function exchanged({ levels, grandTotal, grandTotalFirst }: Layout, across: Across): Partial<Layout> {
  const { levels: beside, total, totalsFirst, empty } = across;
  return {
    levels: beside,
    across: { levels, total: grandTotal, ...(grandTotalFirst ? { totalsFirst: true } : {}), ...(empty ? { empty } : {}) },
    grandTotal: total,
    ...(totalsFirst ? { grandTotalFirst: true } : {}),
  };
}
