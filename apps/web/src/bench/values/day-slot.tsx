import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { useState } from 'react';
import type { Calendar, RelativeUnit, Stretch } from '@cendra/core';
import {
  dayOfMoment,
  formatDate,
  parseRelativeDay,
  parseStretch,
  RELATIVE_UNITS,
  RELATIVE_WHICH,
  resolveRelativeDay,
  resolveStretch,
  writeRelativeDay,
  writeStretch,
} from '@cendra/core';
import { Button } from '../../ui/button';
import { nowMicros } from '../../ui/now';

const EXTENTS = ['whole ones', 'so far'] as const;
const EDGES = ['start of', 'end of', 'today minus', 'today plus'] as const;

interface DayButtonProps {
  readonly label: string;
  readonly calendar: Calendar;
  readonly value: string;
  /** A whole stretch of days is wanted, or one day. */
  readonly takes: 'day' | 'stretch';
  readonly onKeep: (text: string) => void;
}

/** Beside a slot for days: opens a calendar for one day, or the words of a relative one. */
export function DayButton({ label, calendar, value, takes, onKeep }: DayButtonProps) {
  return (
    <Popover className="inline-block">
      <PopoverButton aria-label={`${label}: say it in words`} className="text-meta text-ink-soft underline underline-offset-2">
        in words
      </PopoverButton>
      <PopoverPanel anchor="bottom start" focus className="z-50 mt-1 space-y-2 rounded border bg-paper p-3 shadow-md">
        {({ close }) => (
          <DayWords
            calendar={calendar}
            value={value}
            takes={takes}
            onKeep={(text) => {
              onKeep(text);
              close();
            }}
          />
        )}
      </PopoverPanel>
    </Popover>
  );
}

/** Relative days as a sentence with slots, and what they come to today. */
export function DayWords({ calendar, value, takes, onKeep }: Omit<DayButtonProps, 'label'>) {
  const known = parseStretch(value);
  const knownDay = parseRelativeDay(value);
  const start: Stretch =
    known ?? (knownDay && knownDay.at !== 'today' ? knownDay.of : { which: 'last', count: 1, unit: 'month', soFar: false });
  const [stretch, setStretch] = useState(start);
  const [edge, setEdge] = useState<(typeof EDGES)[number]>(knownDay?.at === 'end' ? 'end of' : 'start of');
  const [days, setDays] = useState(knownDay?.at === 'today' ? Math.abs(knownDay.days) : 7);
  const set = (change: Partial<Stretch>) => setStretch((old) => sound({ ...old, ...change }));
  const byDays = takes === 'day' && edge.startsWith('today');
  const text =
    takes === 'stretch'
      ? writeStretch(stretch)
      : byDays
        ? writeRelativeDay({ at: 'today', days: edge === 'today minus' ? -days : days })
        : writeRelativeDay({ at: edge === 'end of' ? 'end' : 'start', of: stretch });
  return (
    <div className="space-y-2">
      <p className="flex flex-wrap items-center gap-1">
        {takes === 'day' && <WordSlot label="Which day" value={edge} choices={EDGES} onChange={setEdge} />}
        {byDays ? (
          <CountField label="How many days" value={days} onKeep={setDays} />
        ) : (
          <>
            <WordSlot label="This, last or next" value={stretch.which} choices={RELATIVE_WHICH} onChange={(which) => set({ which })} />
            {stretch.which !== 'this' && <CountField label="How many" value={stretch.count} onKeep={(count) => set({ count })} />}
            <WordSlot label="Unit of time" value={stretch.unit} choices={RELATIVE_UNITS} onChange={(unit: RelativeUnit) => set({ unit })} />
            {takes === 'stretch' && stretch.which !== 'next' && (
              <WordSlot
                label="Whole ones or so far"
                value={stretch.soFar ? 'so far' : 'whole ones'}
                choices={EXTENTS}
                onChange={(extent) => set({ soFar: extent === 'so far' })}
              />
            )}
          </>
        )}
      </p>
      <p className="figures text-meta text-ink-soft">Today that is {resolved(text, calendar)}.</p>
      <Button small onClick={() => onKeep(text)}>
        Use {text}
      </Button>
    </div>
  );
}

/** What a relative date comes to today, in words; empty for a text that is none. */
export function resolved(text: string, calendar: Calendar): string {
  const today = dayOfMoment(nowMicros(), calendar);
  const stretch = parseStretch(text);
  const days = stretch && resolveStretch(stretch, today, calendar);
  if (days) return days.from === days.until ? formatDate(days.from) : `${formatDate(days.from)} until ${formatDate(days.until)}`;
  const day = parseRelativeDay(text);
  const found = day && resolveRelativeDay(day, today, calendar);
  return found === undefined ? '' : formatDate(found);
}

const sound = (stretch: Stretch): Stretch => ({
  ...stretch,
  count: stretch.which === 'this' ? 1 : Math.min(1_000, Math.max(1, stretch.count)),
  soFar: stretch.which !== 'next' && stretch.soFar,
});

function CountField({
  label,
  value,
  onKeep,
}: {
  readonly label: string;
  readonly value: number;
  readonly onKeep: (count: number) => void;
}) {
  return (
    <input
      type="number"
      min={1}
      max={1000}
      aria-label={label}
      value={value}
      onChange={(event) => onKeep(Math.max(1, Math.trunc(Number(event.target.value)) || 1))}
      className="slot figures w-[7ch]"
    />
  );
}

interface WordSlotProps<T extends string> {
  readonly label: string;
  readonly value: T;
  readonly choices: readonly T[];
  readonly onChange: (word: T) => void;
}

/** A slot with a few words that opens inside what is itself open in place; a list of its own would close that. */
function WordSlot<T extends string>({ label, value, choices, onChange }: WordSlotProps<T>) {
  return (
    <select
      aria-label={label}
      value={value}
      onChange={(event) => {
        const chosen = choices.find((each) => each === event.target.value);
        if (chosen !== undefined) onChange(chosen);
      }}
      className="slot"
    >
      {choices.map((each) => (
        <option key={each}>{each}</option>
      ))}
    </select>
  );
}
