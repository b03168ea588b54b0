import { configureStore } from '@reduxjs/toolkit';
import { useDispatch, useSelector } from 'react-redux';
import { api } from '../api';
import { benchReducer } from '../bench/bench-slice';
import { rowsViewsReducer } from '../bench/rows/view-slice';
import { valuesReducer } from '../bench/values-slice';
import { proofRunsReducer } from '../proof/proof-slice';
import { connectionReducer } from './connection-slice';
import { runsReducer } from '../runs/runs-slice';

export const store = configureStore({
  reducer: {
    [api.reducerPath]: api.reducer,
    bench: benchReducer,
    runs: runsReducer,
    connection: connectionReducer,
    values: valuesReducer,
    rowsViews: rowsViewsReducer,
    proofRuns: proofRunsReducer,
  },
  middleware: (defaults) => defaults({ serializableCheck: false, immutableCheck: false }).concat(api.middleware),
});

export type State = ReturnType<typeof store.getState>;
export type Dispatch = typeof store.dispatch;

export const useAppDispatch = useDispatch.withTypes<Dispatch>();
export const useAppSelector = useSelector.withTypes<State>();
