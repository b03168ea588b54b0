import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Location } from 'react-router';
import { useLocation, useNavigate } from 'react-router';
import type {
  Calendar,
  CheckedStep,
  CheckedTrail,
  Followed,
  FollowedStep,
  Identity,
  NamedValue,
  SummariseStep,
  SummaryKey,
} from '@cendra/core';
import { checkedStep, kindOf, readsSource, resultStep, stretchWriter, subTrail } from '@cendra/core';
import type { Failure } from '../../api/problem';
import { useAnswer } from '../../runs/use-answer';
import type { Cell } from '../../ui/cell';
import { bucketOf } from '../summarise/bucket';
import type { Bench } from '../use-bench';
import { grouped } from '../../ui/format';

export interface Following {
  /** What is followed; undefined while nothing is. */
  readonly identity: Identity | undefined;
  readonly followed: Followed | undefined;
  readonly waiting: boolean;
  readonly failure: Failure | undefined;
  follow(identity: Identity): void;
  /** The same row as it stands in other tables it was made of. */
  readonly others: readonly { readonly title: string; readonly identity: Identity }[];
  /** Follows a row of the grid by its values; false where none of them is a plain one of the table. */
  followRow(columns: readonly { readonly id: string }[], cells: readonly (Cell | undefined)[]): void;
  stop(): void;
}

/** A row of what is handed over, by the ids of its fields; a value that is not whole is left out. */
export interface RowElsewhere {
  readonly columns: readonly { readonly id: string }[];
  readonly cells: readonly (Cell | undefined)[];
}

/** Enough values to tell a row from others. */
const MOST_VALUES = 30;

/** The row that is followed through the trail, and what became of it at every step. */
export function useFollow(bench: Bench): Following {
  const { trail } = bench;
  const selected = bench.selected?.step.id;
  const [identity, setIdentity] = useState<Identity>();
  const [others, setOthers] = useState<Following['others']>([]);
  const target = bench.selected?.blocked === false ? resultOr(trail, bench.selected) : undefined;
  const question = useMemo(
    () => (identity && target ? ({ kind: 'follow', step: target.step.id, identity } as const) : undefined),
    [identity, target],
  );
  const { answer, waiting, failure } = useAnswer(bench, question);
  const followAt = useCallback(
    (step: string | undefined, { columns, cells }: RowElsewhere) => {
      const found = step === undefined ? [] : identitiesOf(trail, step, columns, cells);
      const [first, ...rest] = found;
      if (!first) return;
      setIdentity(first.identity);
      setOthers(rest);
    },
    [trail],
  );
  const followRow = useCallback<Following['followRow']>((columns, cells) => followAt(selected, { columns, cells }), [followAt, selected]);
  useRowFromElsewhere((row) => followAt(resultStep(trail)?.step.id, row));
  const stop = () => {
    setIdentity(undefined);
    setOthers([]);
  };
  return { identity, others, followed: answer, waiting, failure, follow: setIdentity, followRow, stop };
}

/** Follows a row that was picked on another page of the dataset, once: going back does not pick it again. */
function useRowFromElsewhere(follow: (row: RowElsewhere) => void) {
  const { state, pathname, search } = useLocation() as Location<{ readonly follow?: RowElsewhere } | null>;
  const navigate = useNavigate();
  const row = state?.follow;
  const latest = useRef(follow);
  useEffect(() => {
    latest.current = follow;
  });
  useEffect(() => {
    if (!row) return;
    latest.current(row);
    void navigate(`${pathname}${search}`, { replace: true, state: null });
  }, [row, navigate, pathname, search]);
}

/** What a shown row is known by in each table it was made of, the first side's first. */
function identitiesOf(
  trail: CheckedTrail,
  selected: string,
  columns: readonly { readonly id: string }[],
  cells: readonly (Cell | undefined)[],
): Following['others'] {
  const tables = subTrail(trail.definition, selected).filter((each) => readsSource(each));
  return tables.flatMap(({ id }) => {
    const table = checkedStep(trail, id);
    const now = carriedTo(trail, id, selected);
    const identity = (table?.schema.fields ?? []).flatMap((field) => {
      const at = columns.findIndex((each) => each.id === now.get(field.id));
      const cell = at < 0 ? undefined : cells[at];
      const plain = cell === null || typeof cell === 'string';
      return plain && field.type.kind !== 'json' && field.type.kind !== 'float' ? [{ field: field.id, value: cell }] : [];
    });
    // A partner that was not met has nothing but nulls.
    const known = identity.some((each) => each.value !== null);
    return table && known ? [{ title: table.title, identity: identity.slice(0, MOST_VALUES) }] : [];
  });
}

/** Under which ids a table's fields arrive at a step. */
function carriedTo(trail: CheckedTrail, table: string, target: string): ReadonlyMap<string, string> {
  const at = new Map<string, ReadonlyMap<string, string>>();
  for (const step of subTrail(trail.definition, target)) {
    const fields = checkedStep(trail, step.id)?.schema.fields ?? [];
    if (step.id === table) at.set(step.id, new Map(fields.map((each) => [each.id, each.id])));
    else {
      const carried = step.inputs.flatMap((input, slot) =>
        [...(input === null ? [] : (at.get(input) ?? []))].flatMap(([first, id]) => {
          const now = kindOf(step).carries(step, slot, id);
          return now === undefined ? [] : [[first, now] as const];
        }),
      );
      if (carried.length > 0) at.set(step.id, new Map(carried.toReversed()));
    }
  }
  return at.get(target) ?? new Map();
}

/** A row is followed to what is handed over, or as far as the selected step where that cannot run. */
function resultOr(trail: CheckedTrail, selected: CheckedStep): CheckedStep {
  const result = resultStep(trail);
  return result && !result.blocked ? result : selected;
}

/** The step a step's rows come from first: where its first inputs lead to. */
export function originOf(trail: CheckedTrail, step: string | undefined): CheckedStep | undefined {
  const steps = step === undefined ? [] : subTrail(trail.definition, step);
  return steps.flatMap((each) => (readsSource(each) ? (checkedStep(trail, each.id) ?? []) : []))[0];
}

const inBrackets = (values: readonly NamedValue[]) =>
  values.length === 0 ? '' : ` (${values.map(({ name, value }) => `${name} was ${value === null ? 'null' : `"${value}"`}`).join(', ')})`;

/** What became of the row at a step, in words; of a summary, into which group it was counted. */
export function followWords(
  { arrived, present, dropped, values, kept }: FollowedStep,
  calendar: Calendar,
  summary?: SummariseStep,
): string {
  if (arrived === 0) return 'not here';
  const [first] = dropped;
  const [alone] = kept ?? [];
  if (present === 0 && first?.because !== undefined) return `${first.because}${inBrackets(first.values)}`;
  if (alone && present === arrived) return `no partner${inBrackets(alone.values)}, kept`;
  if (present === 0 && first) {
    const why = first.values.map(({ name, value }) => `${name} was ${value ?? 'null'}`).join(', ');
    const clauses = first.clauses.map((each) => each.number);
    const by = clauses.length === 0 ? 'the criteria' : `clause ${clauses.join(' and ')}`;
    return `dropped by ${by}${why === '' ? '' : ` (${why})`}`;
  }
  if (summary && present > 0) {
    const group = summary.keys.map((key, at) => keyWords(key, values[0]?.[at]?.value ?? null, calendar)).slice(0, values[0]?.length ?? 0);
    return present > 1 ? `counted into ${grouped(present)} groups` : `counted into ${group.length > 0 ? group.join(', ') : 'the only row'}`;
  }
  const told = values[0]?.slice(0, 2).map(({ name, value }) => `${name} ${value ?? 'null'}`) ?? [];
  if (present > arrived) return [`became ${grouped(present)} rows`, ...told].join(', ');
  const some = arrived === 1 ? 'present' : `${grouped(present)} of ${grouped(arrived)} present`;
  return [some, ...told].join(', ');
}

/** The value of a group as it is read: of days the stretch, “May 2024”. */
function keyWords({ expression }: SummaryKey, value: string | null, calendar: Calendar): string {
  const bucket = bucketOf(expression)?.bucket;
  if (value === null) return 'null';
  return bucket === undefined || bucket === 'day' ? value : stretchWriter(bucket, calendar)(value);
}
