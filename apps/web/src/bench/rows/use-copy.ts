import { useCallback, useState } from 'react';
import type { FieldType } from '@cendra/core';
import type { ResultColumnDto } from '../../api';
import { api } from '../../api';
import type { Cell } from '../../ui/cell';
import { grouped } from '../../ui/format';
import { copiedCell, MOST_CELLS, tabbed, toClipboard } from './copy';
import type { ReadPage } from './use-pages';
import { PAGE } from './use-pages';
import type { Selection } from './use-selection';

/** Cut texts are read whole, up to this many. */
const MOST_WHOLE = 50;

/** Copies the chosen cells with the names of their fields, and says what was copied. */
export function useCopy(result: string, read: ReadPage) {
  const [copied, setCopied] = useState('');
  const [readCell] = api.useLazyResultsCellQuery();
  const copy = useCallback(
    (columns: readonly ResultColumnDto[], { rows, columns: chosen }: Selection, stored: ReadonlyMap<string, number>) => {
      const wanted = columns.slice(chosen.from, chosen.until + 1);
      const count = rows.until - rows.from + 1;
      if (count * wanted.length > MOST_CELLS) {
        setCopied(`Too many to copy: at most ${grouped(MOST_CELLS)} cells at once. The proof takes all of them away as a file.`);
        return;
      }
      const whole = async (
        cell: Cell | undefined,
        row: Cell | undefined,
        field: string,
        left: { count: number; short: number },
      ): Promise<string> => {
        if (typeof cell !== 'object' || cell === null || !('t' in cell) || typeof row !== 'string' || left.count-- <= 0)
          return copiedCell(cell);
        const { data } = await readCell({ id: result, row, field });
        const text = data?.text ?? cell.t;
        // First rows have the beginning of long texts only.
        if (Array.from(text).length < (data?.length ?? cell.n)) left.short++;
        return text;
      };
      const gather = async () => {
        const lines: string[][] = [];
        const left = { count: MOST_WHOLE, short: 0 };
        for (let page = Math.floor(rows.from / PAGE); page <= Math.floor(rows.until / PAGE); page++) {
          const cells = (await read(page)) ?? [];
          const [from, until] = [Math.max(0, rows.from - page * PAGE), rows.until - page * PAGE + 1];
          for (const row of cells.slice(from, until))
            lines.push(await Promise.all(wanted.map(({ id }) => whole(row[stored.get(id) ?? 0], row[0], id, left))));
        }
        const texts = wanted.map((each) => (each.type as FieldType).kind === 'text');
        await toClipboard(
          tabbed(
            wanted.map((each) => each.name),
            lines,
            texts,
          ),
        );
        const notWhole = Math.max(0, -left.count) + left.short;
        const cut = notWhole > 0 ? `, of ${notWhole} long texts only the beginning` : '';
        const plural = (words: string, n: number) => `${grouped(n)} ${words}${n === 1 ? '' : 's'}`;
        return `Copied ${plural('row', lines.length)} of ${plural('field', wanted.length)} with their names${cut}.`;
      };
      void gather().then(setCopied, () => setCopied('The browser did not let these rows onto the clipboard.'));
    },
    [result, read, readCell],
  );
  return { copy, copied };
}
