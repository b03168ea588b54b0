import { combineSlices, configureStore } from '@reduxjs/toolkit';
import type { Reducer } from '@reduxjs/toolkit';
import { useDispatch, useSelector } from 'react-redux';
import { api } from '../api';
import type { Benches } from '../bench/bench-slice';
import { rowsViewsReducer } from '../bench/rows/view-slice';
import { valuesReducer } from '../bench/values-slice';
import { proofRunsReducer } from '../proof/proof-slice';
import { connectionReducer } from './connection-slice';
import { runsReducer } from '../runs/runs-slice';

/** The benches come when a dataset is opened: edits stand on the whole of core, which no other page has to wait for. */
const reducer = combineSlices({
  [api.reducerPath]: api.reducer,
  runs: runsReducer,
  connection: connectionReducer,
  values: valuesReducer,
  rowsViews: rowsViewsReducer,
  proofRuns: proofRunsReducer,
}).withLazyLoadedSlices<{ bench: Benches }>();

export const takeInBenches = (bench: Reducer<Benches>) => void reducer.inject({ reducerPath: 'bench', reducer: bench });

export const store = configureStore({
  reducer,
  middleware: (defaults) => defaults({ serializableCheck: false, immutableCheck: false }).concat(api.middleware),
});

export type State = ReturnType<typeof store.getState>;
export type Dispatch = typeof store.dispatch;

export const useAppDispatch = useDispatch.withTypes<Dispatch>();
export const useAppSelector = useSelector.withTypes<State>();
