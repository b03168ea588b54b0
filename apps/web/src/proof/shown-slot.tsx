import type { Edit, Level } from '@cendra/core';
import { showsGroups } from '@cendra/core';
import type { FieldChoices } from './field-or-expression';
import { FieldOrExpression } from './field-or-expression';

const ITS_VALUES = 'its values';

interface ShownSlotProps extends FieldChoices {
  readonly label: string;
  readonly level: Level;
  readonly onChange: (to: Level, before?: readonly Edit[]) => void;
}

/** By what the groups of a level are shown: what tells things apart is seldom what they are called. */
export function ShownSlot({ label, level, onChange, handed, more, ...choices }: ShownSlotProps) {
  const { shown, ...plain } = level;
  if (!showsGroups({ ...plain })) return null;
  return (
    <>
      shown by
      <FieldOrExpression
        {...choices}
        label={label}
        value={shown}
        empty={ITS_VALUES}
        others={shown === undefined ? [] : [{ says: ITS_VALUES, choose: () => onChange(plain) }]}
        offered={[...handed, ...more].map((each) => each.id).filter((each) => each !== level.field)}
        wrong={shown !== undefined && !handed.some((each) => each.id === shown)}
        onField={({ id }, before) => onChange({ ...plain, shown: id }, before)}
      />
    </>
  );
}
