import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/react';
import { memo, useState } from 'react';
import same from 'react-fast-compare';
import { useSteady } from '../ui/steady';

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
