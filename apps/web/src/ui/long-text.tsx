import { useState } from 'react';

interface LongTextProps {
  readonly label: string;
  readonly value: string;
  readonly placeholder: string;
  readonly rows: number;
  readonly most: number;
  readonly disabled?: boolean;
  readonly onKeep: (text: string) => void;
}

/** A text of several lines: leaving it or Ctrl+Enter keeps what was typed, Esc restores. */
export function LongText({ label, value, placeholder, rows, most, disabled = false, onKeep }: LongTextProps) {
  const [typed, setTyped] = useState<string>();
  const keep = () => {
    if (typed !== undefined && typed !== value) onKeep(typed);
    setTyped(undefined);
  };
  return (
    <textarea
      aria-label={label}
      value={typed ?? value}
      placeholder={placeholder}
      rows={rows}
      maxLength={most}
      readOnly={disabled}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) {
          event.stopPropagation();
          keep();
        }
        if (event.key === 'Escape') setTyped(undefined);
      }}
      className="w-full resize-y rounded border bg-paper px-2 py-1 placeholder:text-ink-faint"
    />
  );
}
