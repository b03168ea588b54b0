import {
  Combobox,
  ComboboxInput,
  ComboboxOption,
  ComboboxOptions,
  Listbox,
  ListboxButton,
  ListboxOption,
  ListboxOptions,
} from '@headlessui/react';
import { memo, useState } from 'react';
import same from 'react-fast-compare';
import type { Field, Schema } from '@cendra/core';
import { typeWord } from '@cendra/core';
import { RoleGlyph } from '../ui/glyphs';
import { useSteady } from '../ui/steady';
import { WORDS } from '../ui/words';

export const OPTIONS = 'z-40 mt-1 max-h-72 overflow-auto rounded border bg-paper py-1 shadow-md';
export const OPTION_LINE = 'flex cursor-pointer items-center gap-2 px-3 py-1';
export const OPTION = `${OPTION_LINE} data-focus:bg-panel`;

interface ChoiceSlotProps<T extends string> {
  readonly label: string;
  readonly value: T | '';
  readonly choices: readonly T[];
  readonly disabled?: boolean;
  readonly wrong?: boolean;
  readonly empty?: string;
  readonly onChange: (value: T) => void;
}

/** A slot with a few fixed choices. */
export function ChoiceSlot<T extends string>(props: ChoiceSlotProps<T>) {
  const keep = useSteady((value: string) => {
    const choice = props.choices.find((each) => each === value);
    if (choice !== undefined) props.onChange(choice);
  });
  return <StillChoice {...props} onChange={keep} />;
}

// A step may have hundreds of slots: each is drawn again only where what it shows is other.
const StillChoice = memo(function StillChoice({
  label,
  value,
  choices,
  disabled = false,
  wrong = false,
  empty = '…',
  onChange,
}: ChoiceSlotProps<string>) {
  return (
    <Listbox value={value} onChange={onChange} disabled={disabled}>
      <span className={wrong ? 'wrong-slot' : ''}>
        <ListboxButton aria-label={`${label}: ${value === '' ? (empty === '…' ? 'not chosen' : empty) : value}`} className="slot">
          {value === '' ? empty : value}
        </ListboxButton>
      </span>
      <ListboxOptions anchor="bottom start" className={OPTIONS}>
        {choices.map((choice) => (
          <ListboxOption key={choice} value={choice} className={OPTION}>
            {choice}
          </ListboxOption>
        ))}
      </ListboxOptions>
    </Listbox>
  );
}, same);

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
  /** A typed text that is no field's name, kept with Enter: an expression. */
  readonly onExpression?: (text: string) => void;
}

/** Fields whose names have a text in them: first the one that is called so, then those that begin with it. */
function fieldsLike(schema: Schema, typed: string): readonly Field[] {
  const sought = typed.trim().toLowerCase();
  const rank = (name: string) => (name === sought ? 0 : name.startsWith(sought) ? 1 : 2);
  return schema.fields
    .flatMap((each) => (each.name.toLowerCase().includes(sought) ? [{ each, at: rank(each.name.toLowerCase()) }] : []))
    .sort((a, b) => a.at - b.at)
    .map(({ each }) => each);
}

/** A slot for a field, found by typing part of its name. Fields not taken are offered for use only. */
export function FieldSlot({ onField, onExpression, ...shown }: FieldSlotProps) {
  const chosen = useSteady(onField);
  const written = useSteady((text: string) => onExpression?.(text));
  return <StillField {...shown} onField={chosen} {...(onExpression ? { onExpression: written } : {})} />;
}

const StillField = memo(function StillField({
  label = 'Field',
  schema,
  field,
  missing,
  disabled,
  autoFocus = false,
  placeholder,
  onField,
  onExpression,
}: FieldSlotProps) {
  const [typed, setTyped] = useState('');
  const found = fieldsLike(schema, typed).slice(0, 100);
  const written = onExpression !== undefined && typed.trim() !== '' && found.length === 0 ? typed : undefined;
  return (
    <Combobox
      value={field ?? null}
      disabled={disabled}
      immediate
      onChange={(next: Field | string | null) => {
        setTyped('');
        if (typeof next === 'string') onExpression?.(next);
        else if (next) onField(next);
      }}
    >
      <span className={missing ? 'wrong-slot' : ''}>
        <ComboboxInput
          aria-label={label}
          autoFocus={autoFocus}
          displayValue={(each: Field | null) => each?.name ?? ''}
          placeholder={placeholder ?? (onExpression ? 'field, or an expression' : 'field')}
          onChange={(event) => setTyped(event.target.value)}
          onFocus={(event) => event.target.select()}
          style={{ width: `${Math.max(written?.length ?? 0, field?.name.length ?? 20, 6) + 2}ch` }}
          className="slot"
        />
      </span>
      <ComboboxOptions modal={false} anchor="bottom start" className={`${OPTIONS} min-w-72`}>
        {found.map((each) => (
          <ComboboxOption key={each.id} value={each} className={OPTION}>
            <RoleGlyph role={each.role} />
            <span>{each.name}</span>
            <span className="ml-auto text-meta text-ink-soft">
              {typeWord(each.type)}
              {each.forUseOnly && <span title={WORDS['for use only']}>, for use only</span>}
            </span>
          </ComboboxOption>
        ))}
        {written !== undefined && (
          <ComboboxOption value={written} className={OPTION}>
            <span className="text-ink-soft">as an expression</span> <span className="font-mono">{written}</span>
          </ComboboxOption>
        )}
      </ComboboxOptions>
    </Combobox>
  );
}, same);

interface TextSlotProps {
  readonly label: string;
  readonly value: string;
  readonly placeholder: string;
  readonly look?: string;
  readonly wrong?: boolean;
  readonly disabled: boolean;
  readonly autoFocus?: boolean;
  /** Why what is typed cannot be kept; it stays typed then. */
  readonly refuses?: (text: string) => string | undefined;
  readonly onKeep: (text: string) => void;
}

/** A slot one types into: Enter or leaving keeps, Esc restores. */
export function TextSlot({
  label,
  value,
  placeholder,
  look = '',
  wrong = false,
  disabled,
  autoFocus = false,
  refuses,
  onKeep,
}: TextSlotProps) {
  const [typed, setTyped] = useState<string>();
  const refused = typed === undefined ? undefined : refuses?.(typed);
  const keep = () => {
    // It stays typed, to be mended.
    if (refused !== undefined) return;
    if (typed !== undefined && typed !== value) onKeep(typed);
    setTyped(undefined);
  };
  const shown = typed ?? value;
  return (
    <span className={`min-w-0 ${wrong || refused !== undefined ? 'wrong-slot' : ''}`}>
      <input
        aria-label={label}
        aria-invalid={wrong || refused !== undefined}
        value={shown}
        placeholder={placeholder}
        autoFocus={autoFocus}
        readOnly={disabled}
        onChange={(event) => setTyped(event.target.value)}
        onFocus={(event) => event.target.select()}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === 'Enter') keep();
          if (event.key === 'Escape') setTyped(undefined);
        }}
        style={{ width: `${Math.min(70, Math.max(shown.length, placeholder.length, 4) + 2)}ch` }}
        className={`slot max-w-full ${look}`}
      />
      {refused !== undefined && (
        <span role="status" className="text-rust">
          {' '}
          {refused}
        </span>
      )}
    </span>
  );
}
