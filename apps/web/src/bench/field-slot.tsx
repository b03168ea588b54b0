import { memo } from 'react';
import same from 'react-fast-compare';
import type { Field, Schema } from '@cendra/core';
import { typeWord } from '@cendra/core';
import { RoleGlyph } from '../ui/glyphs';
import { useSteady } from '../ui/steady';
import { WORDS } from '../ui/words';
import { NameSlot } from './name-slot';

interface FieldSlotProps {
  readonly label?: string;
  readonly schema: Schema;
  readonly field: Field | undefined;
  readonly missing: boolean;
  readonly disabled: boolean;
  readonly autoFocus?: boolean;
  /** What stands in it while it is empty. */
  readonly placeholder?: string;
  readonly onField: (field: Field) => void;
  /** A typed text that is no field's name: an expression. */
  readonly onExpression?: (text: string) => void;
}

/** A slot for a field, found by its name. Fields not taken are offered for use only. */
export function FieldSlot({ onField, onExpression, ...shown }: FieldSlotProps) {
  const chosen = useSteady(onField);
  const written = useSteady((text: string) => onExpression?.(text));
  return <StillField {...shown} onField={chosen} {...(onExpression ? { onExpression: written } : {})} />;
}

// A step may have hundreds of slots: each is drawn again only where what it shows is other.
const StillField = memo(function StillField(props: FieldSlotProps) {
  const { label = 'Field', schema, field, missing, onField, onExpression, placeholder, ...shown } = props;
  return (
    <NameSlot
      {...shown}
      label={label}
      what="field"
      all={schema.fields}
      taken={field}
      wrong={missing}
      placeholder={placeholder ?? (onExpression ? 'field, or an expression' : 'field')}
      keyOf={(each) => each.id}
      line={(each) => (
        <>
          <RoleGlyph role={each.role} />
          <span>{each.name}</span>
          <span className="ml-auto text-meta text-ink-soft">
            {typeWord(each.type)}
            {each.forUseOnly && <span title={WORDS['for use only']}>, for use only</span>}
          </span>
        </>
      )}
      onTake={onField}
      {...(onExpression ? { onExpression } : {})}
    />
  );
}, same);
