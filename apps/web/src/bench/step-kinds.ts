import { lazy } from 'react';
import type { Arriving, Definition, KindName, Mint, SqlText, Step } from '@cendra/core';
import {
  addStepAfter,
  arrangeStep,
  calculateStep,
  criteriaStep,
  lineSheetStep,
  lookupStep,
  placeAtEnd,
  scriptStep,
  sourcesOf,
  sqlStep,
  sqlText,
  summariseStep,
  unpivotStep,
} from '@cendra/core';
import { BringIn } from './join/bring-in';
import type { BenchKind, Beginning } from './step-kind';
import { TableEditor } from './table-editor';
import { joinNote, unionNote, unpivotNote } from './trail-notes';
import { Stack } from './union/stack';

/** The step is put behind the selected one and takes its place where that was used. */
const behind =
  (make: (mint: Mint, input: string, arriving: Arriving) => Step): Beginning['begin'] =>
  (mint, definition, { step: after, ...arriving }) => {
    const step = make(mint, after.id, arriving);
    return { edits: [addStepAfter(definition, after.id, step)], step: step.id };
  };

/** A text stands on no other step; it runs where the trail begins, until it is brought in somewhere. */
const besideIt =
  (make: (mint: Mint, source: string, sql: SqlText) => Step) =>
  (mint: Mint, definition: Definition): ReturnType<Beginning['begin']> => {
    const step = make(mint, sourcesOf(definition)[0] ?? '', sqlText('', []));
    return { edits: [{ kind: 'add step', step, at: placeAtEnd(definition.steps), heirs: [] }], step: step.id };
  };

const Call = lazy(() => import('./procedure/call'));

/** One line per kind of step: its editor, and how it is added. */
export const BENCH_KINDS: Readonly<Record<KindName, BenchKind>> = {
  table: { Editor: TableEditor },
  sql: {
    Editor: lazy(() => import('./sql/sql-editor')),
    adding: { word: 'SQL', says: 'a text of your own, on a lane of its own', begin: besideIt(sqlStep) },
    showsProblems: true,
  },
  script: {
    Editor: lazy(() => import('./script/script-editor')),
    adding: { word: 'Script', says: 'several statements with temp tables, on a lane of its own', begin: besideIt(scriptStep) },
    showsProblems: true,
  },
  procedure: {
    Editor: lazy(() => import('./procedure/procedure-editor')),
    adding: { word: 'Procedure', says: 'rows of a function of the source, on a lane of its own', Choose: Call },
    showsProblems: true,
  },
  criteria: {
    Editor: lazy(() => import('./criteria/criteria-editor')),
    adding: { word: 'Criteria', says: 'keep the rows where something holds', begin: behind(criteriaStep) },
  },
  calculate: {
    Editor: lazy(() => import('./calculate/calculate-editor')),
    adding: { word: 'Calculate', says: 'add fields made from others', begin: behind(calculateStep) },
    showsProblems: true,
  },
  join: {
    Editor: lazy(() => import('./join/join-editor')),
    note: joinNote,
    adding: { word: 'Bring in', says: 'rows of a table, or of another step, that meet these', Choose: BringIn },
    showsProblems: true,
  },
  union: {
    Editor: lazy(() => import('./union/union-editor')),
    note: unionNote,
    adding: { word: 'Union', says: 'rows of a table, or of another step, below these', Choose: Stack },
    showsProblems: true,
  },
  unpivot: {
    Editor: lazy(() => import('./unpivot/unpivot-editor')),
    adding: { word: 'Unpivot', says: 'fields become rows: what it is, and its value', begin: behind(unpivotStep) },
    note: unpivotNote,
    showsProblems: true,
  },
  arrange: {
    Editor: lazy(() => import('./arrange/arrange-editor')),
    adding: { word: 'Arrange', says: 'sort, keep the first or different rows, choose fields', begin: behind(arrangeStep) },
    showsProblems: true,
  },
  summarise: {
    Editor: lazy(() => import('./summarise/summarise-editor')),
    adding: { word: 'Summarise', says: 'one row per group, with figures of its rows', begin: behind(summariseStep) },
    showsProblems: true,
  },
  'line sheet': {
    Editor: lazy(() => import('./line-sheet/line-sheet-editor')),
    adding: { word: 'Line sheet', says: 'lines in a fixed order, each with figures of its own', begin: behind(lineSheetStep) },
    showsProblems: true,
  },
  lookup: {
    Editor: lazy(() => import('./join/lookup-editor')),
    adding: { word: 'Look up', says: 'fields of other tables, one row each, along keys', begin: behind(lookupStep) },
    showsProblems: true,
  },
};
