import type { Edit, Level } from '@cendra/core';
import { MOST_HEADS } from '@cendra/core';
import { Away } from './away';
import type { FieldChoices } from './field-or-expression';
import { FieldOrExpression } from './field-or-expression';

interface HeadsSlotProps extends FieldChoices {
  readonly named: string;
  readonly level: Level;
  readonly onChange: (to: Level, before?: readonly Edit[]) => void;
}

/** The fields told once at the head of a level's groups, each taken away by itself; others are offered behind. */
export function HeadsSlot({ named, level, onChange, handed, more, ...choices }: HeadsSlotProps) {
  const { words, locked } = choices;
  const { heads = [], ...plain } = level;
  const change = (to: readonly string[], before?: readonly Edit[]) => onChange(to.length > 0 ? { ...plain, heads: to } : plain, before);
  const taken = [level.field, level.shown, ...heads];
  const free = [...handed, ...more].filter((each) => !taken.includes(each.id) && each.role !== 'measure');
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
      {!locked && heads.length < MOST_HEADS && (
        <FieldOrExpression
          {...choices}
          label={`At the head of ${named}`}
          empty={heads.length === 0 ? 'with …' : '…'}
          offered={free.map((each) => each.id)}
          onField={({ id }, before) => change([...heads, id], before)}
        />
      )}
    </>
  );
}
