import type { DayStretch, Level, SheetField } from '@cendra/core';
import { DAY_STRETCHES, hasStretches } from '@cendra/core';
import { ChoiceSlot } from '../bench/slots';

const EACH = 'each value';

interface StretchSlotProps {
  readonly label: string;
  readonly level: Level;
  readonly field: SheetField | undefined;
  readonly locked: boolean;
  readonly onChange: (to: Level) => void;
}

/** Of days: which stretch of them is one group; nothing for other fields. */
export function StretchSlot({ label, level, field, locked, onChange }: StretchSlotProps) {
  if (!field || !hasStretches(field)) return null;
  const { stretch, ...plain } = level;
  return (
    <>
      by
      <ChoiceSlot
        label={label}
        value={stretch ?? EACH}
        choices={[EACH, ...DAY_STRETCHES] as const}
        disabled={locked}
        onChange={(to: DayStretch | typeof EACH) => onChange(to === EACH ? plain : { ...plain, stretch: to })}
      />
    </>
  );
}
