import { Checkbox } from '@headlessui/react';
import { Check } from 'lucide-react';

/** A tick in a list line. */
export function Tick({
  checked,
  onChange,
  label,
  disabled = false,
}: {
  readonly checked: boolean;
  readonly onChange: (checked: boolean) => void;
  readonly label?: string;
  readonly disabled?: boolean;
}) {
  return (
    <Checkbox
      checked={checked}
      onChange={onChange}
      aria-label={label}
      disabled={disabled}
      className="flex size-4 shrink-0 items-center justify-center rounded border border-ink-faint data-checked:border-ember data-checked:bg-ember data-disabled:opacity-50"
    >
      {checked && <Check size={12} strokeWidth={3} className="text-on-ember" aria-hidden />}
    </Checkbox>
  );
}
