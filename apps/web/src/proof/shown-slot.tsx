import type { Level, SheetField } from '@cendra/core';
import { showsGroups } from '@cendra/core';
import { ChoiceSlot } from '../bench/slots';
import type { FieldWords } from './field-words';

const ITS_VALUES = 'its values';

interface ShownSlotProps {
  readonly label: string;
  readonly level: Level;
  readonly handed: readonly SheetField[];
  readonly words: FieldWords;
  readonly locked: boolean;
  readonly onChange: (to: Level) => void;
}

/** By what the groups of a level are shown: offered for what tells things apart, which is seldom what they are called. */
export function ShownSlot({ label, level, handed, words, locked, onChange }: ShownSlotProps) {
  const field = handed.find((each) => each.id === level.field);
  const { shown, ...plain } = level;
  const tells = field?.role === 'key' || field?.role === 'code';
  if (!showsGroups({ ...plain }) || (!tells && shown === undefined)) return null;
  const others = handed.filter((each) => each.id !== level.field).map((each) => words.of(each.id));
  return (
    <>
      shown by
      <ChoiceSlot
        label={label}
        value={shown === undefined ? ITS_VALUES : words.of(shown)}
        choices={[ITS_VALUES, ...others]}
        wrong={shown !== undefined && !handed.some((each) => each.id === shown)}
        disabled={locked}
        onChange={(word) => {
          const next = word === ITS_VALUES ? undefined : words.field(word);
          onChange(next ? { ...plain, shown: next.id } : plain);
        }}
      />
    </>
  );
}
