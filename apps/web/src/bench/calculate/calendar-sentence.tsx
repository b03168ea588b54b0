import { MONTHS, WEEKDAYS } from '@cendra/core';
import { ChoiceSlot } from '../slots';
import { ZoneSentence } from '../zone-sentence';
import type { Bench } from '../use-bench';

/** How the dataset counts weeks, years and seasons and where it is, as a sentence with slots. */
export function CalendarSentence({ bench }: { readonly bench: Bench }) {
  const { calendar } = bench.trail.definition;
  const set = (change: Partial<typeof calendar>) => bench.edit({ kind: 'set calendar', from: calendar, to: { ...calendar, ...change } });
  return (
    <p className="border-t px-2 py-1 text-meta text-ink-soft">
      Weeks begin on{' '}
      <ChoiceSlot
        label="First day of the week"
        value={WEEKDAYS[calendar.firstDayOfWeek - 1] ?? ''}
        choices={WEEKDAYS}
        disabled={bench.withoutValues}
        onChange={(day) => set({ firstDayOfWeek: WEEKDAYS.indexOf(day) + 1 })}
      />
      , years in{' '}
      <ChoiceSlot
        label="First month of the year"
        value={MONTHS[calendar.firstMonthOfYear - 1] ?? ''}
        choices={MONTHS}
        disabled={bench.withoutValues}
        onChange={(month) => set({ firstMonthOfYear: MONTHS.indexOf(month) + 1 })}
      />
      ; seasons last from{' '}
      <ChoiceSlot
        label="First month of the season"
        value={MONTHS[calendar.firstMonthOfSeason - 1] ?? ''}
        choices={MONTHS}
        disabled={bench.withoutValues}
        onChange={(month) => set({ firstMonthOfSeason: MONTHS.indexOf(month) + 1 })}
      />{' '}
      to{' '}
      <ChoiceSlot
        label="Last month of the season"
        value={MONTHS[calendar.lastMonthOfSeason - 1] ?? ''}
        choices={MONTHS}
        disabled={bench.withoutValues}
        onChange={(month) => set({ lastMonthOfSeason: MONTHS.indexOf(month) + 1 })}
      />
      . <ZoneSentence bench={bench} />
    </p>
  );
}
