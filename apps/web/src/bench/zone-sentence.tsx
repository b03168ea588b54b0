import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/react';
import { useMemo, useState } from 'react';
import { UTC, zones } from '@cendra/core';
import { OPTION, OPTIONS } from './slots';
import type { Bench } from './use-bench';

const MOST_SHOWN = 100;

/** Where the dataset is: whose clocks tell the days and hours of its instants. */
export function ZoneSentence({ bench }: { readonly bench: Bench }) {
  const { calendar } = bench.trail.definition;
  return (
    <>
      Instants are read by the clocks of{' '}
      <ZoneSlot
        value={calendar.zone ?? UTC}
        disabled={bench.withoutValues}
        onChange={(zone) => bench.edit({ kind: 'set calendar', from: calendar, to: { ...calendar, zone } })}
      />
      .
    </>
  );
}

/** A slot for a time zone, found by part of its name: “vien” finds Europe/Vienna, “new york” America/New_York. */
function ZoneSlot({
  value,
  disabled,
  onChange,
}: {
  readonly value: string;
  readonly disabled: boolean;
  readonly onChange: (zone: string) => void;
}) {
  const [typed, setTyped] = useState('');
  const all = useMemo(() => zones(), []);
  const wanted = typed.trim().toLowerCase().replaceAll(' ', '_');
  const found = all.filter((each) => each.toLowerCase().includes(wanted)).slice(0, MOST_SHOWN);
  return (
    <Combobox
      value={value}
      disabled={disabled}
      onChange={(zone: string | null) => {
        setTyped('');
        if (zone) onChange(zone);
      }}
    >
      <ComboboxInput
        aria-label="Time zone"
        onChange={(event) => setTyped(event.target.value)}
        onFocus={(event) => event.target.select()}
        onBlur={() => setTyped('')}
        style={{ width: `${Math.max(value.length, 6) + 2}ch` }}
        className="slot"
      />
      <ComboboxOptions modal={false} anchor="bottom start" className={OPTIONS}>
        {found.map((zone) => (
          <ComboboxOption key={zone} value={zone} className={OPTION}>
            {zone}
          </ComboboxOption>
        ))}
        {found.length === 0 && <p className="px-3 py-1 text-meta text-ink-soft">No zone has this in its name.</p>}
      </ComboboxOptions>
    </Combobox>
  );
}
