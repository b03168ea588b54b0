import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/react';
import { useEffect, useRef, useState } from 'react';
import { grouped } from '../../ui/format';
import { OPTION, OPTIONS } from '../slots';
import type { Bench } from '../use-bench';
import type { Offered } from './use-offers';
import { useOffers } from './use-offers';

/** Something else than a value that can be chosen in its place, such as another field. */
export interface OtherOffer {
  /** What is kept, and has to be typed to find it. */
  readonly text: string;
  readonly says: string;
}

interface ValueSlotProps {
  readonly bench: Bench;
  readonly label: string;
  readonly value: string;
  readonly placeholder: string;
  readonly offered: Offered;
  readonly others?: readonly OtherOffer[];
  readonly look?: string;
  readonly wrong?: boolean;
  readonly disabled?: boolean;
  readonly autoFocus?: boolean;
  /** The slot is emptied once something is kept, for what is added to a list. */
  readonly adding?: boolean;
  readonly onKeep: (text: string) => void;
  /** Several values at once, pasted. */
  readonly onPaste?: (text: string) => boolean;
}

/** A slot for a value, typed or picked from those there are; what is typed is kept as it is by Enter or leaving. */
export function ValueSlot(props: ValueSlotProps) {
  const {
    bench,
    label,
    value,
    placeholder,
    offered,
    others = [],
    look = '',
    wrong = false,
    disabled = false,
    adding = false,
    onKeep,
  } = props;
  const [typed, setTyped] = useState<string>();
  const [open, setOpen] = useState(false);
  const begun = useRef(false);
  const [entered, setEntered] = useState(false);
  const { found, waiting, failure } = useOffers(bench, offered, typed ?? '', open);
  const keep = (text: string | null) => {
    // Keeping may close what the slot stands in, and so take its focus before it is drawn anew.
    begun.current = false;
    setTyped(undefined);
    if (text !== null && (text !== value || adding)) onKeep(text);
  };
  const shown = typed ?? value;
  const part = (typed ?? '').trim().toLowerCase();
  const suited = others.filter((each) => part !== '' && each.text.toLowerCase().includes(part)).slice(0, 6);
  const choosing = offered !== undefined && offered.from !== 'step';
  const offers = found.values.filter((each) => choosing || each.value !== typed);
  // Among choices the first one that fits is meant; among values of the data what is typed is.
  const asTyped = shown !== '' && !(choosing && (waiting || offers.length > 0)) && (
    <ComboboxOption value={shown} className={OPTION}>
      <span className="whitespace-pre">{shown}</span>
      <span className="ml-auto text-meta text-ink-soft">{typed === undefined ? 'as it is' : 'as typed'}</span>
    </ComboboxOption>
  );
  // A choice written out is that choice, whether it was written by its value or its label.
  const meant = (text: string) => {
    const same = (each: string) => each !== '' && each.toLowerCase() === text.trim().toLowerCase();
    return (choosing && found.values.find((each) => same(each.value) || same(each.label))?.value) || text;
  };
  const keepMeant = (text: string) => {
    const exact = meant(text);
    keep(choosing && exact === text ? (offers[0]?.value ?? text) : exact);
  };
  // Enter came before the choices did: they are waited for.
  const whenKnown = useRef(keepMeant);
  useEffect(() => {
    whenKnown.current = keepMeant;
  });
  useEffect(() => {
    if (!entered || waiting) return;
    setEntered(false);
    if (typed !== undefined) whenKnown.current(typed);
  }, [entered, waiting, typed]);
  return (
    <Combobox value={value === '' ? null : value} disabled={disabled} immediate onChange={keep} onClose={() => setOpen(false)}>
      <span className={wrong ? 'wrong-slot' : ''}>
        <ComboboxInput
          aria-label={label}
          aria-invalid={wrong}
          autoFocus={props.autoFocus}
          displayValue={() => shown}
          placeholder={placeholder}
          autoComplete="off"
          onChange={(event) => {
            begun.current = true;
            setOpen(true);
            setTyped(event.target.value);
          }}
          onFocus={(event) => {
            begun.current = false;
            setOpen(true);
            selectSoon(event.target, () => begun.current);
          }}
          onBlur={() => begun.current && typed !== undefined && (typed !== '' || !adding) && keep(meant(typed))}
          onKeyDown={(event) => {
            if (event.key === 'Escape') setTyped(undefined);
            // Where no offer is marked, Enter keeps what was typed, or among choices the first that fits it.
            const marked = event.currentTarget.getAttribute('aria-activedescendant') !== null;
            if (event.key !== 'Enter' || marked || typed === undefined) return;
            event.preventDefault();
            if (choosing && waiting) setEntered(true);
            else keepMeant(typed);
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
      <ComboboxOptions modal={false} anchor="bottom start" className={`${OPTIONS} min-w-56 empty:hidden`}>
        {!choosing && asTyped}
        {suited.map((each) => (
          <ComboboxOption key={each.text} value={each.text} className={OPTION}>
            {each.text} <span className="ml-auto text-meta text-ink-soft">{each.says}</span>
          </ComboboxOption>
        ))}
        {offers.map((each) => (
          <ComboboxOption key={each.value} value={each.value} className={OPTION}>
            <span className="whitespace-pre">{each.label || (each.value === '' ? "''" : each.value)}</span>
            {choosing
              ? each.label !== '' && each.label !== each.value && <span className="ml-auto pl-4 text-meta text-ink-soft">{each.value}</span>
              : each.rows !== '' && <span className="figures ml-auto pl-4 text-meta text-ink-soft">{grouped(each.rows)} rows</span>}
          </ComboboxOption>
        ))}
        {choosing && asTyped}
        {found.more && <p className="px-3 py-1 text-meta text-ink-soft">There are more; type a part to find them.</p>}
        {waiting && <p className="px-3 py-1 text-meta text-ink-soft">Looking …</p>}
        {failure && <p className="px-3 py-1 text-meta text-rust">{failure.problems[0]?.message}</p>}
      </ComboboxOptions>
    </Combobox>
  );
}

/** Opening the offers writes the text anew and loses what is selected, so that is done behind it, unless typing has begun. */
function selectSoon(input: HTMLInputElement, begun: () => boolean): void {
  setTimeout(() => {
    if (document.activeElement === input && !begun()) input.select();
  }, 30);
}
