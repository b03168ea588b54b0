import { useCallback } from 'react';
import { useAppDispatch, useAppSelector } from '../../app/store';
import type { RowsView } from './view';
import { PLAIN_VIEW } from './view';
import { viewed } from './view-slice';

/** How the rows of a step are looked at, kept while the tab lives, whatever runs come. */
export function useRowsView(key: string): { readonly view: RowsView; readonly setView: (view: RowsView) => void } {
  const dispatch = useAppDispatch();
  const view = useAppSelector((state) => state.rowsViews[key]) ?? PLAIN_VIEW;
  const setView = useCallback((next: RowsView) => void dispatch(viewed({ key, view: next })), [dispatch, key]);
  return { view, setView };
}
