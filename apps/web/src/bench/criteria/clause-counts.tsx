import type { ClauseCount, Head } from '@cendra/core';
import { grouped } from '../../ui/format';
import { WORDS } from '../../ui/words';

const NARROW = 'w-[9ch]';
/** As wide as two columns and the gap between them. */
const WIDE = 'w-[calc(18ch+4px)]';

/** What is told of clauses under a head: the count, its word, a short one for lines whose head is not that of the columns, and its width. */
const columnsOf = (head: Head) =>
  head === 'at least one'
    ? ([
        ['alone', 'alone', 'alone', NARROW],
        ['onlyThis', 'only this one', 'only this one', WIDE],
        ['nulls', 'null', 'null', NARROW],
      ] as const)
    : ([
        ['alone', 'alone', 'alone', NARROW],
        ['left', 'left', 'left', NARROW],
        ['givesBack', 'gives back', 'back', NARROW],
        ['nulls', 'null', 'null', NARROW],
      ] as const);

/** The words above the columns of counts; each count says its own to a screen reader. */
export function ClauseHeads({ head }: { readonly head: Head }) {
  return (
    <div aria-hidden className="mt-2 flex justify-end gap-1 pr-7 text-meta text-ink-soft">
      {columnsOf(head).map(([key, word, , width]) => (
        <span key={key} title={WORDS[word]} className={`shrink-0 text-right ${width}`}>
          {word}
        </span>
      ))}
    </div>
  );
}

interface CountsProps {
  readonly count: ClauseCount | undefined;
  /** The head the clause stands under, and the one the columns are for. */
  readonly head: Head;
  readonly top: Head;
  readonly current: boolean;
}

export function Counts({ count, head, top, current }: CountsProps) {
  if (!count) return null;
  const differs = (head === 'at least one') !== (top === 'at least one');
  return (
    <span className={`flex shrink-0 gap-1 pt-1 text-meta ${current ? '' : 'text-ink-soft italic'}`}>
      {columnsOf(head).map(([key, word, short, width]) => (
        <span key={key} className={`figures shrink-0 text-right ${width} ${key === 'nulls' && count.nulls !== '0' ? 'text-amber' : ''}`}>
          {differs && key !== 'alone' && key !== 'nulls' ? (
            <span className="text-ink-soft">{short} </span>
          ) : (
            <span className="sr-only">{word} </span>
          )}
          {count[key] === undefined ? '' : grouped(count[key])}
        </span>
      ))}
    </span>
  );
}
