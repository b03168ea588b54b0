import { useState } from 'react';
import type { ProcedureStep, RowWords, TableStep } from '@cendra/core';
import type { Bench } from '../use-bench';

interface RowWordsSlotProps {
  readonly bench: Bench;
  readonly label: string;
  readonly words: RowWords | undefined;
  /** The table or function the rows come from as they are read: the name is remembered with it. */
  readonly table?: TableStep | ProcedureStep | undefined;
  /** The join the partners come into: what they are there is remembered with it. */
  readonly partners?: { readonly role: RowWords | null; onRole(to: RowWords | null): void };
}

/** What rows are called, one and several: “harvest, harvests”. */
export function RowWordsSlot({ bench, label, words, table, partners }: RowWordsSlotProps) {
  const [typed, setTyped] = useState<string>();
  const shown = words?.row || '…';
  if ((!table && !partners) || bench.withoutValues) return <span className="slot">{shown}</span>;
  const now = table ? table.called : partners?.role;
  const keep = () => {
    if (typed === undefined) return;
    setTyped(undefined);
    const [row = '', rows = ''] = typed.split(',').map((each) => each.trim());
    const to = row === '' ? undefined : { row, rows: rows === '' ? `${row}s` : rows };
    if (JSON.stringify(to) === JSON.stringify(now ?? undefined)) return;
    if (table) bench.edit({ kind: 'set step', step: table.id, property: 'called', from: now, to });
    else partners?.onRole(to ?? null);
  };
  return (
    <input
      aria-label={`${label}, one and several, separated by a comma`}
      title="One and several, such as: harvest, harvests"
      value={typed ?? shown}
      placeholder="one, several"
      onFocus={(event) => {
        setTyped(now ? `${now.row}, ${now.rows}` : '');
        requestAnimationFrame(() => event.target.select());
      }}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') setTyped(undefined);
      }}
      style={{ width: `${Math.max((typed ?? shown).length, 10) + 2}ch` }}
      className="slot"
    />
  );
}
