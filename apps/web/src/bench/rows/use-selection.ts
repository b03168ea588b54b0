import { useCallback, useMemo, useState } from 'react';

export interface Place {
  readonly row: number;
  readonly column: number;
}

export interface Selection {
  /** The cell the keys act on. */
  readonly at: Place;
  readonly rows: { readonly from: number; readonly until: number };
  readonly columns: { readonly from: number; readonly until: number };
  readonly several: boolean;
  holds(row: number, column: number): boolean;
  /** Moves to a cell; `extending` keeps where the selection began. */
  move(to: Place, extending: boolean): void;
  all(rows: number, columns: number): void;
}

/** A rectangle of cells, from where it began to the cell the keys act on. */
export function useSelection(): Selection {
  const [{ anchor, at }, set] = useState({ anchor: ORIGIN, at: ORIGIN });
  const move = useCallback((to: Place, extending: boolean) => set((old) => ({ anchor: extending ? old.anchor : to, at: to })), []);
  const all = useCallback(
    (rows: number, columns: number) => set({ anchor: ORIGIN, at: { row: Math.max(0, rows - 1), column: Math.max(0, columns - 1) } }),
    [],
  );
  return useMemo(() => {
    const rows = between(anchor.row, at.row);
    const columns = between(anchor.column, at.column);
    const holds = (row: number, column: number) =>
      row >= rows.from && row <= rows.until && column >= columns.from && column <= columns.until;
    return { at, rows, columns, several: anchor.row !== at.row || anchor.column !== at.column, holds, move, all };
  }, [anchor, at, move, all]);
}

const ORIGIN: Place = { row: 0, column: 0 };
const between = (a: number, b: number) => ({ from: Math.min(a, b), until: Math.max(a, b) });
