import type { Level, SheetField } from '@cendra/core';
import { MOST_HEADS } from '@cendra/core';
import { ChoiceSlot } from '../bench/slots';
import { Away } from './away';
import type { FieldWords } from './field-words';

interface HeadsSlotProps {
  readonly named: string;
  readonly level: Level;
  readonly handed: readonly SheetField[];
  readonly words: FieldWords;
  readonly locked: boolean;
  readonly onChange: (to: Level) => void;
}

/** The fields told once at the head of a level's groups, each taken away by itself; others are offered behind. */
export function HeadsSlot({ named, level, handed, words, locked, onChange }: HeadsSlotProps) {
  const { heads = [], ...plain } = level;
  const change = (to: readonly string[]) => onChange(to.length > 0 ? { ...plain, heads: to } : plain);
  const taken = [level.field, level.shown, ...heads];
  const free = handed.filter((each) => !taken.includes(each.id) && each.role !== 'measure');
  return (
    <>
      {heads.map((id, at) => (
        <span key={id} className="inline-flex items-center">
          {at === 0 ? 'with' : 'and'} {words.of(id) || 'a field that is gone'}
          <Away
            label={`Without ${words.of(id) || 'the field that is gone'} at the head of ${named}`}
            hidden={locked}
            onClick={() => change(heads.filter((other) => other !== id))}
          />
        </span>
      ))}
      {!locked && free.length > 0 && heads.length < MOST_HEADS && (
        <ChoiceSlot
          label={`At the head of ${named}`}
          value=""
          empty={heads.length === 0 ? 'with …' : '…'}
          choices={free.map((each) => words.of(each.id))}
          onChange={(word) => {
            const next = words.field(word);
            if (next) change([...heads, next.id]);
          }}
        />
      )}
    </>
  );
}
