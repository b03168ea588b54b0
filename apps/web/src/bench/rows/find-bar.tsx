import { Input } from '@headlessui/react';
import { ChevronDown, X } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { api } from '../../api';
import { failureOf } from '../../api/problem';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';
import { FailureNotice } from '../../ui/notice';
import { Waiting } from '../../ui/waiting';

interface FindBarProps {
  readonly result: string;
  /** Whether these are all rows. */
  readonly complete: boolean;
  readonly sort: string | undefined;
  /** Row the keys are at: the search goes on behind it. */
  readonly row: number;
  readonly onFound: (row: number, text: string) => void;
  readonly onClose: () => void;
}

/** Finds a text in any field, in the order the rows are sorted by; Enter goes on to the next, Esc closes. */
export function FindBar({ result, complete, sort, row, onFound, onClose }: FindBarProps) {
  const [text, setText] = useState('');
  const [asked, setAsked] = useState('');
  const [ask, answer] = api.useLazyResultsFindQuery();
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => input.current?.focus(), []);
  const search = async (sought: string, from: number) => {
    setAsked(sought);
    const found = await ask({ id: result, text: sought, from, ...(sort === undefined ? {} : { sort }) }, false);
    const place = found.data?.next ?? found.data?.first;
    if (place !== null && place !== undefined) onFound(place, sought);
  };
  const find = () => {
    if (text.trim() !== '') void search(text, text === asked ? row + 1 : row);
  };
  // What was asked of other rows, such as the first ones while all are on their way, is asked of these again.
  const again = useRef<() => void>(undefined);
  useEffect(() => {
    again.current = () => {
      if (asked !== '') void search(asked, row);
    };
  });
  useEffect(() => again.current?.(), [result]);
  const told = text === asked && !answer.isFetching && answer.originalArgs?.id === result ? answer.data : undefined;
  return (
    <div role="search" aria-label="Find in the rows" className="flex items-center gap-2 border-b bg-panel px-3 py-1">
      <span className="text-ink-soft">Rows that hold</span>
      <Input
        ref={input}
        aria-label="Text to find"
        value={text}
        maxLength={200}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter') find();
          if (event.key === 'Escape') onClose();
        }}
        className="slot w-56"
      />
      <Button small icon={ChevronDown} onClick={() => find()} disabled={text.trim() === ''}>
        Next
      </Button>
      <span role="status" className="figures">
        {told && (told.rows === 0 ? `“${asked}” is nowhere in these rows.` : `${grouped(told.rows)} row${told.rows === 1 ? '' : 's'}`)}
        {told && !complete && ' of those that are here'}
      </span>
      {answer.isFetching && <Waiting what="Searching all rows" />}
      <FailureNotice failure={failureOf(answer.error)} />
      <button type="button" aria-label="Close the search" onClick={onClose} className="ml-auto text-ink-faint hover:text-ink">
        <X size={16} strokeWidth={1.75} aria-hidden />
      </button>
    </div>
  );
}
