import { useMemo } from 'react';
import { UTC, zones } from '@cendra/core';
import { NameSlot } from './name-slot';
import type { Bench } from './use-bench';

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
  const all = useMemo(() => zones().map((name) => ({ name })), []);
  return (
    <NameSlot
      label="Time zone"
      what="time zone"
      all={all}
      taken={all.find((each) => each.name === value) ?? { name: value }}
      placeholder="time zone"
      disabled={disabled}
      keyOf={({ name }) => name}
      line={({ name }) => name}
      onTake={({ name }) => onChange(name)}
    />
  );
}
