import { Combobox, ComboboxInput } from '@headlessui/react';
import type { ReactNode } from 'react';
import { memo, useEffect, useRef, useState } from 'react';
import { listIsOpen, openList, selectSoon, useMoving } from '../../ui/moving';
import { useSteady } from '../../ui/steady';
import { showsSame } from '../shows-same';
import type { Bench } from '../use-bench';
import type { OtherOffer } from './offers';
import { Offers } from './offers';
import type { Reading, Reads } from './readings';
import type { Offered } from './use-offers';
import { useOffers } from './use-offers';
import { WhichMeant } from './which-meant';

interface ValueSlotProps {
  readonly bench: Bench;
  readonly label: string;
  readonly value: string;
  readonly placeholder: string;
  readonly offered: Offered;
  readonly others?: readonly OtherOffer[];
  /** What is said where there is nothing to choose from. */
  readonly nothing?: string;
  /** Values that are chosen already; they are ticked and cannot be chosen again. */
  readonly chosen?: readonly string[];
  /** What a typed text means; left out, it is what it is. */
  readonly reads?: Reads;
  readonly look?: string;
  readonly wrong?: boolean;
  readonly disabled?: boolean;
  readonly autoFocus?: boolean;
  /** The slot is emptied once something is kept, for what is added to a list. */
  readonly adding?: boolean;
  /** In a panel of its own: what stands beside the input, with the offers below both, where they cover nothing. */
  readonly beside?: ReactNode;
  readonly onKeep: (text: string) => void;
  /** What was kept already is kept again. */
  readonly onSame?: () => void;
  /** Several values at once, pasted. */
  readonly onPaste?: (text: string) => boolean;
}

/**
 * A slot for a value. What is typed is what is meant, and an emptied slot means blank: both are kept by Enter, Tab or
 * leaving. An offer is taken only by moving to it, or by clicking it.
 */
export function ValueSlot({ onKeep, onSame, onPaste, reads, ...shown }: ValueSlotProps) {
  return (
    <StillValue
      {...shown}
      onKeep={useSteady(onKeep)}
      onSame={useSteady(() => onSame?.())}
      onPaste={useSteady((text: string) => onPaste?.(text) ?? false)}
      reads={useSteady((text: string) => reads?.(text) ?? { text })}
    />
  );
}

// A step may have hundreds of slots: each is drawn again only where what it shows is other.
const StillValue = memo(function StillValue(props: ValueSlotProps) {
  const { bench, label, value, placeholder, offered, chosen = [], look = '', wrong = false, disabled = false, adding = false } = props;
  const { beside, onKeep, onSame, reads } = props;
  const [typed, setTyped] = useState<string>();
  const [open, setOpen] = useState(false);
  const moving = useMoving((typed ?? value) !== '' || typed !== undefined);
  const [shut, setShut] = useState(false);
  const [entered, setEntered] = useState(false);
  const [asked, setAsked] = useState<{ readonly text: string; readonly readings: readonly Reading[] }>();
  const begun = useRef(false);
  const input = useRef<HTMLInputElement>(null);
  const { found, waiting, failure } = useOffers(bench, offered, typed ?? '', open || entered);
  const choosing = offered !== undefined && offered.from !== 'step';
  const finish = (text: string) => {
    // Keeping may close what the slot stands in, and so take its focus before it is drawn anew.
    begun.current = false;
    setTyped(undefined);
    setAsked(undefined);
    if (text !== value || adding) onKeep(text);
    else onSame?.();
  };
  // A choice written out is that choice, whether it was written by its value or its label.
  const written = (text: string) => {
    const same = (each: string) => each !== '' && each.toLowerCase() === text.trim().toLowerCase();
    return (choosing && found.values.find((each) => same(each.value) || same(each.label))?.value) || text;
  };
  const keepTyped = (text: string) => {
    if (adding && text === '') return;
    const read = text === '' ? { text } : (reads?.(written(text)) ?? { text: written(text) });
    if ('text' in read) finish(read.text);
    else {
      begun.current = false;
      setAsked({ text, readings: read.either });
    }
  };
  // Enter came before the choices did: they are waited for, because what was typed may be the label of one.
  const whenKnown = useRef(keepTyped);
  useEffect(() => {
    whenKnown.current = keepTyped;
  });
  // What closes the slot before they came loses nothing: then what was typed is kept as it is.
  const leaving = useRef<() => void>(undefined);
  useEffect(() => {
    leaving.current = entered && typed !== undefined ? () => finish(typed) : undefined;
  });
  useEffect(() => () => leaving.current?.(), []);
  useEffect(() => {
    if (!entered || waiting) return;
    setEntered(false);
    if (typed !== undefined) whenKnown.current(typed);
  }, [entered, waiting, typed]);
  const enter = (text: string) => {
    setShut(true);
    if (typed === undefined) finish(text);
    else if (choosing && waiting && text !== '') setEntered(true);
    else keepTyped(text);
  };
  const choose = (text: string | null) => {
    // An emptied slot is told as null, and is not yet kept.
    if (text === null) return;
    if (text === typed) enter(text);
    else finish(text);
  };
  // What was asked goes away with its buttons; the slot has the focus again, which is no reason to open its list.
  const said = (text: string) => {
    input.current?.focus();
    setShut(true);
    finish(text);
  };
  const shown = typed ?? value;
  const list = (
    <Offers
      {...props}
      typed={typed}
      moved={moving.moved}
      offers={found.values}
      more={found.more}
      choosing={choosing}
      inFlow={beside !== undefined}
      waiting={waiting}
      failure={failure}
      chosen={chosen}
    />
  );
  return (
    <Combobox
      value={value === '' ? null : value}
      disabled={disabled}
      immediate
      onChange={choose}
      onClose={() => {
        setOpen(false);
        moving.stay();
      }}
    >
      <span className={beside === undefined ? 'contents' : 'flex flex-wrap items-center gap-2'}>
        <span className={wrong ? 'wrong-slot' : ''}>
          <ComboboxInput
            ref={input}
            aria-label={label}
            aria-invalid={wrong}
            autoFocus={props.autoFocus}
            displayValue={() => shown}
            placeholder={placeholder}
            autoComplete="off"
            readOnly={entered}
            onChange={(event) => {
              begun.current = true;
              setOpen(true);
              moving.stay();
              setShut(false);
              setAsked(undefined);
              setTyped(event.target.value);
            }}
            onFocus={(event) => {
              begun.current = false;
              setOpen(true);
              setShut(false);
              selectSoon(event.target, () => begun.current);
            }}
            onClick={({ currentTarget }) => {
              setShut(false);
              // The list opens with the focus alone; one that was closed since opens as its key opens it.
              if (!listIsOpen(currentTarget)) openList(currentTarget);
            }}
            onBlur={() => begun.current && typed !== undefined && keepTyped(typed)}
            onKeyDownCapture={moving.onKeyDownCapture}
            onKeyDown={(event) => {
              const opened = listIsOpen(event.currentTarget);
              if (moving.onKey(event)) setShut(false);
              // The list's own Enter takes the line it has marked, though nobody has moved to it.
              if (event.key === 'Enter' && !moving.moved && (opened || typed !== undefined)) {
                event.preventDefault();
                enter(typed ?? value);
              }
              if (event.key === 'ArrowDown' && !opened) setOpen(true);
              if (event.key !== 'Escape') return;
              setTyped(undefined);
              setAsked(undefined);
            }}
            onPaste={(event) => {
              if (props.onPaste?.(event.clipboardData.getData('text'))) {
                event.preventDefault();
                setTyped(undefined);
              }
            }}
            style={{ width: `${Math.min(60, Math.max(shown.length, placeholder.length, 4) + 2)}ch` }}
            className={`slot ${look}`}
          />
        </span>
        {beside}
      </span>
      {asked ? (
        <WhichMeant text={asked.text} readings={asked.readings} onTake={said} onAsWritten={() => said(asked.text)} />
      ) : (
        (!shut || beside !== undefined) && list
      )}
    </Combobox>
  );
}, showsSame);
