import { useCallback, useMemo, useState } from 'react';
import type { Fate, Identity, StepFate } from '@cendra/core';
import { fieldById } from '@cendra/core';
import type { Failure } from '../../api/problem';
import { useAnswer } from '../../runs/use-answer';
import type { Cell } from '../../ui/cell';
import type { Bench } from '../use-bench';

export interface Following {
  /** What is followed; undefined while nothing is. */
  readonly identity: Identity | undefined;
  readonly fate: Fate | undefined;
  readonly waiting: boolean;
  readonly failure: Failure | undefined;
  follow(identity: Identity): void;
  /** Follows a row of the grid by its values; false where none of them is a plain one of the table. */
  followRow(columns: readonly { readonly id: string }[], cells: readonly (Cell | undefined)[]): void;
  stop(): void;
}

/** Enough values to tell a row from others. */
const MOST_VALUES = 30;

/** The row that is followed through the trail, and what became of it at every step. */
export function useFollow(bench: Bench): Following {
  const { trail } = bench;
  const [identity, setIdentity] = useState<Identity>();
  const last = trail.steps.findLast((each) => !each.blocked);
  const question = useMemo(
    () => (identity && last ? ({ kind: 'fate', step: last.step.id, identity } as const) : undefined),
    [identity, last],
  );
  const { answer, waiting, failure } = useAnswer(bench, question);
  const followRow = useCallback<Following['followRow']>(
    (columns, cells) => {
      const table = trail.steps.find((each) => each.step.kind === 'table');
      const known = columns.flatMap(({ id }, index) => {
        const cell = cells[index];
        const field = table && fieldById(table.schema, id);
        const plain = cell === null || typeof cell === 'string';
        return field && plain && field.type.kind !== 'json' && field.type.kind !== 'float' ? [{ field: id, value: cell }] : [];
      });
      if (known.length > 0) setIdentity(known.slice(0, MOST_VALUES));
    },
    [trail],
  );
  return { identity, fate: answer, waiting, failure, follow: setIdentity, followRow, stop: () => setIdentity(undefined) };
}

/** What became of the row at a step, in words. */
export function fateWords({ arrived, present, dropped, values }: StepFate): string {
  if (arrived === 0) return 'not here';
  const [first] = dropped;
  if (present === 0 && first) {
    const why = first.values.map(({ name, value }) => `${name} was ${value ?? 'null'}`).join(', ');
    const clauses = first.clauses.map((each) => each.number);
    const by = clauses.length === 0 ? 'the criteria' : `clause ${clauses.join(' and ')}`;
    return `dropped by ${by}${why === '' ? '' : ` (${why})`}`;
  }
  const told = values[0]?.slice(0, 2).map(({ name, value }) => `${name} ${value ?? 'null'}`) ?? [];
  const some = arrived === 1 ? 'present' : `${present} of ${arrived} present`;
  return [some, ...told].join(', ');
}
