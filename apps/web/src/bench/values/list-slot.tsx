import { X } from 'lucide-react';
import type { ReactNode } from 'react';
import { useState } from 'react';
import { grouped } from '../../ui/format';
import type { Bench } from '../use-bench';
import type { KnownQuestion } from './list-dialog';
import { ListDialog } from './list-dialog';
import { splitValues } from './split';
import type { Reads } from './readings';
import type { Offered } from './use-offers';
import type { OtherOffer } from './offers';
import { ValueSlot } from './value-slot';

/** More values than this are shown as their number and opened as text. */
export const MOST_CHIPS = 12;

interface ListSlotProps {
  readonly bench: Bench;
  readonly label: string;
  /** What the values are called together, such as "codes". */
  readonly noun: string;
  readonly values: readonly string[];
  readonly labels?: ReadonlyMap<string, string>;
  readonly placeholder: string;
  readonly offered: Offered;
  readonly known: KnownQuestion | undefined;
  readonly others?: readonly OtherOffer[];
  /** What is said where there is nothing to choose from. */
  readonly nothing?: string;
  readonly reads?: Reads;
  /** In a panel of its own: what stands beside the input, with the offers below both. */
  readonly beside?: ReactNode;
  readonly wrong?: boolean;
  readonly disabled?: boolean;
  readonly autoFocus?: boolean;
  readonly onKeep: (values: readonly string[]) => void;
  /** Opens the list as text elsewhere, where this slot goes away when it loses the focus. */
  readonly onOpenText?: () => void;
  /** Something else than values was typed, such as a parameter. */
  readonly onOther?: (text: string) => boolean;
}

/** A slot for several values: chips, and where one more is typed or picked; a long list is a number that opens as text. */
export function ListSlot(props: ListSlotProps) {
  const {
    bench,
    label,
    noun,
    values,
    labels,
    placeholder,
    offered,
    known,
    others,
    wrong = false,
    disabled = false,
    onKeep,
    onOther,
    reads,
    beside,
  } = props;
  const [opened, setOpened] = useState(false);
  const open = () => (props.onOpenText ? props.onOpenText() : setOpened(true));
  const add = (text: string) => {
    if (onOther?.(text)) return;
    const more = splitValues(text);
    if (more.length > 0) onKeep([...new Set([...values, ...more])]);
  };
  const paste = (text: string) => {
    const more = splitValues(text).map((each) => {
      const read = reads?.(each);
      return read && 'text' in read ? read.text : each;
    });
    if (more.length < 2) return false;
    onKeep([...values, ...more]);
    if (values.length + more.length > MOST_CHIPS) open();
    return true;
  };
  const asText = (
    <button type="button" className="text-meta text-ink-soft underline underline-offset-2" onClick={open}>
      as text
    </button>
  );
  return (
    <span className={`inline-flex flex-wrap items-center gap-1 ${wrong ? 'wrong-slot' : ''}`}>
      {values.length > MOST_CHIPS ? (
        <button type="button" className="slot" onClick={open} title="Opens as text, one a line">
          {grouped(values.length)} {noun}
        </button>
      ) : (
        values.map((each, index) => (
          <span key={index} className="slot inline-flex items-center gap-1">
            <span className="whitespace-pre">{labels?.get(each) ?? each}</span>
            {!disabled && (
              <button
                type="button"
                aria-label={`Take out ${each}`}
                className="text-ink-faint hover:text-rust"
                onClick={() => onKeep(values.toSpliced(index, 1))}
              >
                <X size={12} strokeWidth={1.75} aria-hidden />
              </button>
            )}
          </span>
        ))
      )}
      {!disabled && values.length <= MOST_CHIPS && (
        <ValueSlot
          bench={bench}
          label={label}
          value=""
          placeholder={placeholder}
          offered={offered}
          {...(others ? { others } : {})}
          {...(reads ? { reads } : {})}
          {...(props.nothing === undefined ? {} : { nothing: props.nothing })}
          {...(props.autoFocus ? { autoFocus: true } : {})}
          {...(beside === undefined
            ? {}
            : {
                beside: (
                  <>
                    {asText}
                    {beside}
                  </>
                ),
              })}
          chosen={values}
          adding
          onKeep={add}
          onPaste={paste}
        />
      )}
      {!disabled && (beside === undefined || values.length > MOST_CHIPS) && (
        <>
          {asText} {beside}
        </>
      )}
      {opened && (
        <ListDialog
          bench={bench}
          label={label}
          noun={noun}
          values={values}
          known={known}
          onKeep={onKeep}
          onClose={() => setOpened(false)}
        />
      )}
    </span>
  );
}
