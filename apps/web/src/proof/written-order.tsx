import { useState } from 'react';
import type { SheetField } from '@cendra/core';
import { api } from '../api';
import { ListDialog } from '../bench/values/list-dialog';
import type { Bench } from '../bench/use-bench';

interface WrittenOrderProps {
  readonly bench: Bench;
  readonly field: SheetField;
  /** The result the proof is of; its values are offered to begin with. */
  readonly result: string | undefined;
  readonly listed: readonly string[] | undefined;
  readonly onKeep: (listed: readonly string[]) => void;
  readonly onClose: () => void;
}

/** The values whose groups come first, one a line, in their order. */
export function WrittenOrder({ bench, field, result, listed, onKeep, onClose }: WrittenOrderProps) {
  const asks = listed === undefined && result !== undefined;
  const { data, isError } = api.useResultsProfileQuery({ id: result ?? '', field: field.id }, { skip: !asks });
  // The text is made once, so it waits for what it begins with.
  const [begun] = useState(listed);
  if (asks && !data && !isError) return null;
  return (
    <ListDialog
      bench={bench}
      label={`The order of ${field.label}: values that are not listed come behind`}
      noun="values in this order"
      values={begun ?? valuesIn(data?.top ?? [])}
      known={undefined}
      onKeep={onKeep}
      onClose={onClose}
    />
  );
}

/** The most frequent values, in an order in which each is found again. */
const valuesIn = (top: readonly { readonly value: string | null }[]): readonly string[] =>
  top.flatMap(({ value }) => (value === null || value === '' ? [] : [value])).toSorted((a, b) => a.localeCompare(b));
