import { Input } from '@headlessui/react';
import { useDeferredValue, useState } from 'react';
import type { KeptTextLineDto } from '../api';
import { api } from '../api';
import type { Failure } from '../api/problem';
import { failureOf } from '../api/problem';

export interface SoughtTexts {
  readonly sought: string;
  setSought(to: string): void;
  /** Undefined before the shelf has been read. */
  readonly lines: readonly KeptTextLineDto[] | undefined;
  readonly failure: Failure | undefined;
}

/** The texts of the shelf in which every typed word stands: in name, note, tags or the text itself. */
export function useSoughtTexts(): SoughtTexts {
  const [sought, setSought] = useState('');
  const find = useDeferredValue(sought.trim());
  const { currentData, data, error } = api.useKeptTextsListQuery(find === '' ? {} : { find });
  return { sought, setSought, lines: currentData ?? data, failure: failureOf(error) };
}

export function SoughtInput({ of: { sought, setSought } }: { readonly of: SoughtTexts }) {
  return (
    <Input
      aria-label="Find a text"
      placeholder="Words of its name, note, tags or text"
      value={sought}
      onChange={(event) => setSought(event.target.value)}
      className="h-8 w-72 rounded border bg-paper px-2"
    />
  );
}
