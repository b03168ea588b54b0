import type { DayStretch, Level, SheetField } from '@cendra/core';
import { DAY_STRETCHES, hasStretches } from '@cendra/core';
import { ChoiceSlot } from '../bench/slots';

const EACH = 'each value';

interface StretchSlotProps<L extends Pick<Level, 'stretch'>> {
  readonly label: string;
  readonly level: L;
  readonly field: SheetField | undefined;
  readonly locked: boolean;
  readonly onChange: (to: L) => void;
}

/** Of days: which stretch of them is one group; nothing for other fields. */
export function StretchSlot<L extends Pick<Level, 'stretch'>>({ label, level, field, locked, onChange }: StretchSlotProps<L>) {
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
        onChange={(to: DayStretch | typeof EACH) => onChange((to === EACH ? plain : { ...plain, stretch: to }) as unknown as L)}
      />
    </>
  );
}
