import { createAction } from '@reduxjs/toolkit';

/** A newer revision of a dataset was heard of; whoever has it open fetches it. */
export const datasetHeard = createAction<{ readonly id: string; readonly revision: number }>('bench/datasetHeard');
