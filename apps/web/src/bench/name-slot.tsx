import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/react';
import type { ReactNode } from 'react';
import { useRef, useState } from 'react';
import { closeList, listIsOpen, openList, selectSoon, useMoving } from '../ui/moving';
import type { Named } from './meant-name';
import { meantName } from './meant-name';
import { offerLook, pointed } from './offer-line';
import { OPTIONS } from './slots';

const MOST_SHOWN = 100;

interface NameSlotProps<T extends Named> {
  readonly label: string;
  /** What has the names, such as `field`. */
  readonly what: string;
  readonly all: readonly T[];
  readonly taken: T | undefined;
  readonly placeholder: string;
  readonly wrong?: boolean;
  readonly disabled: boolean;
  readonly autoFocus?: boolean;
  readonly keyOf: (each: T) => string;
  readonly line: (each: T) => ReactNode;
  readonly onTake: (each: T) => void;
  /** A typed text that is no name: an expression. */
  readonly onExpression?: (text: string) => void;
}

/**
 * A slot for one of many that have names, found by typing a part. A whole name, or an expression, is what is meant and is
 * kept by Enter, Tab or leaving. Of those that only have the part in their names one is taken by moving to it or clicking
 * it; the part itself stays typed, and is told to be none.
 */
export function NameSlot<T extends Named>(props: NameSlotProps<T>) {
  const { label, what, all, taken, placeholder, wrong = false, disabled, autoFocus = false, keyOf, line, onTake, onExpression } = props;
  const [typed, setTyped] = useState<string>();
  const [refused, setRefused] = useState(false);
  // What is added has its list open; one that is come back to opens it by a click, an arrow or a letter.
  const [fresh, setFresh] = useState(autoFocus);
  const begun = useRef(false);
  const { found, called, expression } = meantName(all, typed ?? '', onExpression !== undefined);
  const meant = called !== undefined || expression !== undefined || (typed === undefined && taken !== undefined);
  const moving = useMoving(meant);
  const partly = typed !== undefined && typed.trim() !== '' && called === undefined && expression === undefined;
  const none = `No ${what} is called “${typed?.trim()}”.`;
  const restore = () => {
    begun.current = false;
    setTyped(undefined);
    setRefused(false);
  };
  const take = (next: T | string) => {
    restore();
    if (typeof next === 'string') onExpression?.(next);
    else if (!taken || keyOf(next) !== keyOf(taken)) onTake(next);
  };
  /** Keeps what is typed; gives whether there was something to keep. */
  const keepTyped = (): boolean => {
    if (partly) {
      setRefused(true);
      return false;
    }
    const next = called ?? expression;
    if (next === undefined) restore();
    else take(next);
    return true;
  };
  const shown = typed ?? taken?.name ?? '';
  const option = offerLook(moving.moved);
  return (
    <Combobox
      value={taken ?? null}
      disabled={disabled}
      immediate={fresh}
      onClose={moving.stay}
      // An emptied slot is told as null, and nothing is taken by it.
      onChange={(next: T | string | null) => next !== null && take(next)}
    >
      {({ open }) => (
        <>
          <span className={wrong || refused ? 'wrong-slot' : ''}>
            <ComboboxInput
              aria-label={label}
              aria-invalid={wrong || refused}
              autoFocus={autoFocus}
              autoComplete="off"
              displayValue={() => shown}
              placeholder={placeholder}
              onChange={(event) => {
                begun.current = true;
                moving.stay();
                setRefused(false);
                setTyped(event.target.value);
              }}
              onFocus={(event) => selectSoon(event.target, () => begun.current)}
              onClick={({ currentTarget }) => listIsOpen(currentTarget) || openList(currentTarget)}
              onBlur={() => {
                setFresh(false);
                if (begun.current && typed !== undefined) keepTyped();
              }}
              onKeyDownCapture={moving.onKeyDownCapture}
              onKeyDown={(event) => {
                moving.onKey(event);
                // The list's own Enter takes the line it has marked, though nobody has moved to it.
                if (event.key === 'Enter' && !moving.moved && (open || typed !== undefined)) {
                  event.preventDefault();
                  if (keepTyped() && open) closeList(event.currentTarget);
                }
                if (event.key !== 'Escape') return;
                restore();
                // The list writes it anew only as it closes.
                event.currentTarget.value = taken?.name ?? '';
              }}
              style={{ width: `${Math.max(expression?.length ?? 0, taken?.name.length ?? 20, 6) + 2}ch` }}
              className="slot"
            />
          </span>
          {refused && (
            <span role="status" className={open ? 'sr-only' : 'text-rust'}>
              {none}
            </span>
          )}
          <ComboboxOptions modal={false} anchor="bottom start" className={`${OPTIONS} min-w-72`}>
            {partly && (
              <p className={`px-3 py-1 ${refused ? 'text-rust' : 'text-ink-soft'}`}>
                {none} {found.length > 0 ? 'It is a part of:' : ''}
              </p>
            )}
            {expression !== undefined && (
              <ComboboxOption value={expression} className={option(true)} {...pointed}>
                <span className="text-ink-soft">as an expression</span> <span className="font-mono">{expression}</span>
              </ComboboxOption>
            )}
            {found.slice(0, MOST_SHOWN).map((each) => (
              <ComboboxOption key={keyOf(each)} value={each} className={option(each === called)} {...pointed}>
                {line(each)}
              </ComboboxOption>
            ))}
            {found.length > MOST_SHOWN && <p className="px-3 py-1 text-meta text-ink-soft">There are more; type a part to find them.</p>}
          </ComboboxOptions>
        </>
      )}
    </Combobox>
  );
}
