import { useCallback, useMemo } from 'react';
import type { Catalogue, CheckedStep, CheckedTrail, Edit, GivenValues, KnownRoutine, KnownTable } from '@cendra/core';
import { catalogueOf, checkTrail, resultStep } from '@cendra/core';
import { useOutletContext } from 'react-router';
import type { KnownRoutineDto, KnownTableDto } from '../api';
import { useAppDispatch, useAppSelector } from '../app/store';
import type { OpenBench } from './bench-slice';
import { edited, redid, undid } from './bench-slice';
import { mint } from './mint';
import { useValues } from './use-values';
import { useAddress } from '../ui/address';

export interface DatasetContext {
  readonly id: string;
  readonly known: readonly KnownTableDto[];
  readonly called: readonly KnownRoutineDto[];
  /** What the person used last, by parameter. */
  readonly lastValues: GivenValues;
  /** The person lacks a source: shape only, nothing to change or run. */
  readonly withoutValues: boolean;
}

export interface Bench {
  readonly id: string;
  readonly bench: OpenBench;
  readonly trail: CheckedTrail;
  readonly selected: CheckedStep | undefined;
  readonly values: GivenValues;
  /** Some values are still being looked up; nothing runs by itself before they are known. */
  readonly starting: boolean;
  readonly withoutValues: boolean;
  readonly known: readonly KnownTableDto[];
  readonly catalogue: Catalogue;
  edit(...edits: Edit[]): void;
  /** Makes the dataset what it was at a revision, by edits that can be undone. */
  goBack(revision: number, edits: readonly Edit[]): void;
  undo(): void;
  redo(): void;
  select(step: string): void;
  setValues(parameter: string, values: readonly string[]): void;
}

/** The open dataset as the screens use it: checked, with the selected step and the values in use. */
export function useBench(): Bench {
  const { id, known, called, lastValues, withoutValues } = useOutletContext<DatasetContext>();
  const bench = useAppSelector((state) => state.bench?.[id]);
  if (!bench) throw new Error('the dataset is opened before its views are shown');
  const dispatch = useAppDispatch();
  const [search, writeAddress] = useAddress();
  // On the wire a type is any object.
  const catalogue = useMemo(
    () => catalogueOf(known as unknown as readonly KnownTable[], called as unknown as readonly KnownRoutine[]),
    [known, called],
  );
  const trail = useMemo(() => checkTrail(bench.definition, catalogue), [bench.definition, catalogue]);
  const wanted = search.get('step');
  const selected = trail.steps.find((each) => each.step.id === wanted) ?? resultStep(trail);
  const { values, starting, setValues } = useValues(id, bench.saved.revision, bench.definition, lastValues, withoutValues);

  const edit = useCallback((...edits: Edit[]) => void dispatch(edited({ id, batch: { editId: mint(), edits } })), [dispatch, id]);
  const goBack = useCallback(
    (revision: number, edits: readonly Edit[]) => void dispatch(edited({ id, batch: { editId: mint(), edits, restores: revision } })),
    [dispatch, id],
  );
  const undo = useCallback(() => void dispatch(undid({ id, editId: mint() })), [dispatch, id]);
  const redo = useCallback(() => void dispatch(redid({ id, editId: mint() })), [dispatch, id]);
  const select = useCallback((step: string) => writeAddress((parameters) => parameters.set('step', step)), [writeAddress]);
  return useMemo(
    () => ({ id, bench, trail, selected, values, starting, withoutValues, known, catalogue, edit, goBack, undo, redo, select, setValues }),
    [id, bench, trail, selected, values, starting, withoutValues, known, catalogue, edit, goBack, undo, redo, select, setValues],
  );
}
