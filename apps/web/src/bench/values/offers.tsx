import { ComboboxOption, ComboboxOptions } from '@headlessui/react';
import { Check } from 'lucide-react';
import type { FoundValue } from '@cendra/core';
import type { Failure } from '../../api/problem';
import { grouped } from '../../ui/format';
import { offerLook, pointed } from '../offer-line';
import { OPTIONS } from '../slots';

/** Something else than a value that can be chosen in its place, such as another field. */
export interface OtherOffer {
  /** What is kept, and has to be typed to find it. */
  readonly text: string;
  readonly says: string;
}

interface OffersProps {
  readonly value: string;
  readonly others?: readonly OtherOffer[];
  readonly adding?: boolean;
  readonly nothing?: string;
  readonly typed: string | undefined;
  readonly moved: boolean;
  readonly offers: readonly FoundValue[];
  readonly more: boolean;
  readonly choosing: boolean;
  readonly chosen: readonly string[];
  /** They stand in the page's flow, where they cover nothing. */
  readonly inFlow: boolean;
  readonly waiting: boolean;
  readonly failure: Failure | undefined;
}

/** What is typed first, then what else could stand there, then the values that fit. */
export function Offers(props: OffersProps) {
  const { value, others = [], adding = false, typed, moved, offers, more, choosing, chosen, inFlow, waiting, failure } = props;
  const look = offerLook(moved);
  const option = look(false);
  const shown = typed ?? value;
  const part = (typed ?? '').trim().toLowerCase();
  const suited = others.filter((each) => part !== '' && each.text.toLowerCase().includes(part)).slice(0, 6);
  const taken = new Set(chosen);
  return (
    <ComboboxOptions
      modal={false}
      {...(inFlow
        ? { static: true, className: 'max-h-48 overflow-auto rounded border py-1 empty:hidden' }
        : { anchor: 'bottom start', className: `${OPTIONS} min-w-56 empty:hidden` })}
    >
      {shown !== '' && (
        <ComboboxOption value={shown} className={look(typed !== undefined)} {...pointed}>
          <span className="whitespace-pre">{shown}</span>
          <span className="ml-auto text-meta text-ink-soft">{typed === undefined ? 'as it is' : 'as typed'}</span>
        </ComboboxOption>
      )}
      {shown === '' && typed !== undefined && (
        <ComboboxOption value="" className={`${look(true)} text-ink-soft`} {...pointed}>
          {adding ? 'nothing more' : 'blank'}
        </ComboboxOption>
      )}
      {suited.map((each) => (
        <ComboboxOption key={each.text} value={each.text} className={option} {...pointed}>
          {each.text} <span className="ml-auto text-meta text-ink-soft">{each.says}</span>
        </ComboboxOption>
      ))}
      {offers
        .filter((each) => each.value !== shown)
        .map((each) => (
          <ComboboxOption key={each.value} value={each.value} disabled={taken.has(each.value)} className={option} {...pointed}>
            <span className="whitespace-pre">{each.label || (each.value === '' ? "''" : each.value)}</span>
            {taken.has(each.value) && <Check size={14} strokeWidth={1.75} aria-label="chosen already" />}
            {choosing
              ? each.label !== '' && each.label !== each.value && <span className="ml-auto pl-4 text-meta text-ink-soft">{each.value}</span>
              : each.rows !== '' && (
                  <span className="figures ml-auto pl-4 text-meta text-ink-soft">
                    {grouped(each.rows)} {each.rows === '1' ? 'row' : 'rows'}
                  </span>
                )}
          </ComboboxOption>
        ))}
      {more && <p className="px-3 py-1 text-meta text-ink-soft">There are more; type a part to find them.</p>}
      {choosing && !waiting && !failure && offers.length === 0 && (
        <p className="px-3 py-1 text-meta text-ink-soft">
          {part === '' ? (props.nothing ?? 'There are no choices.') : 'No choice has this in it.'}
        </p>
      )}
      {waiting && <p className="px-3 py-1 text-meta text-ink-soft">Looking …</p>}
      {failure && <p className="px-3 py-1 text-meta text-rust">{failure.problems[0]?.message}</p>}
    </ComboboxOptions>
  );
}
