import { Plus, X } from 'lucide-react';
import { useState } from 'react';
import type { WatchedFigure } from '@cendra/core';
import { canWatch, fieldById, isNumber, MOST_WATCHED, resultStep, WATCHED_AGGREGATES } from '@cendra/core';
import type { StepCountDto } from '../api';
import { Button } from '../ui/button';
import { changeAgainst, grouped } from '../ui/format';
import { FieldSlot } from './field-slot';
import { ChoiceSlot } from './slots';
import type { Bench } from './use-bench';

/** Under the trail: which figures are told at every step. */
export function WatchedFigures({ bench }: { readonly bench: Bench }) {
  const { trail, edit, withoutValues } = bench;
  const [adding, setAdding] = useState(false);
  const watched = trail.definition.watched ?? [];
  const result = resultStep(trail);
  if (!result || withoutValues) return null;
  const put = (to: readonly WatchedFigure[]) =>
    edit({ kind: 'set dataset', property: 'watched', from: trail.definition.watched, to: to.length === 0 ? undefined : to });
  const offered = {
    fields: result.schema.fields.filter(({ id }) => canWatch(trail, result.step.id, { field: id, aggregate: 'distinct count' })),
  };
  return (
    <section aria-label="Watched figures" className="border-t px-2 py-1.5">
      {watched.map((figure, at) => (
        <p key={at} className="flex flex-wrap items-center gap-1 text-meta">
          Watching
          <ChoiceSlot
            label={`Figure ${at + 1}`}
            value={figure.aggregate}
            choices={WATCHED_AGGREGATES.filter((each) => canWatch(trail, result.step.id, { ...figure, aggregate: each }))}
            onChange={(aggregate) => put(watched.map((each, index) => (index === at ? { ...each, aggregate } : each)))}
          />
          of <strong className="font-medium">{nameOf(bench, figure)}</strong>
          <button
            type="button"
            aria-label={`Do not watch ${nameOf(bench, figure)} any more`}
            onClick={() => put(watched.filter((_each, index) => index !== at))}
            className="ml-auto p-0.5 text-ink-faint hover:text-ink"
          >
            <X size={14} strokeWidth={1.75} aria-hidden />
          </button>
        </p>
      ))}
      {watched.length < MOST_WATCHED &&
        (adding ? (
          <p className="flex flex-wrap items-center gap-1">
            Watch
            <FieldSlot
              label="Field to watch"
              schema={offered}
              field={undefined}
              missing={false}
              disabled={false}
              autoFocus
              onField={({ id, type, role }) => {
                setAdding(false);
                put([...watched, { field: id, aggregate: isNumber(type) && role === 'measure' ? 'sum' : 'distinct count' }]);
              }}
            />
            <Button small kind="quiet" onClick={() => setAdding(false)}>
              Leave it
            </Button>
          </p>
        ) : (
          <Button small kind="quiet" icon={Plus} onClick={() => setAdding(true)}>
            Watch a figure …
          </Button>
        ))}
    </section>
  );
}

function nameOf({ trail }: Bench, { field }: WatchedFigure): string {
  const found = trail.steps.flatMap(({ schema }) => fieldById(schema, field) ?? [])[0];
  return found?.name ?? 'a missing field';
}

/** The watched figures of a step, each with the change against its input; a jump stands out. */
export function FiguresOfStep({
  bench,
  count,
  before,
  current,
}: {
  readonly bench: Bench;
  /** They are of what the trail is now. */
  readonly current: boolean;
  readonly count: StepCountDto | undefined;
  readonly before: StepCountDto | undefined;
}) {
  const watched = bench.trail.definition.watched ?? [];
  if (!count || watched.length === 0) return null;
  return (
    <ul aria-label="Watched figures of the step" className={`figures text-meta text-ink-soft ${current ? '' : 'italic'}`}>
      {watched.map((figure, at) => {
        const own = count.figures.find((each) => each.figure === at);
        const old = before?.figures.find((each) => each.figure === at)?.value;
        if (!own) return null;
        const change = own.value === null ? '' : changeAgainst(own.value, old ?? undefined);
        return (
          <li key={at} className="flex gap-2">
            <span className="truncate">
              {figure.aggregate === 'sum' ? '' : 'different '}
              {nameOf(bench, figure)}
            </span>
            <span className="ml-auto">{own.value === null ? 'none' : groupedDecimal(own.value)}</span>
            <span className={`w-12 text-right ${change.startsWith('+') ? 'text-amber' : ''}`}>{change}</span>
          </li>
        );
      })}
    </ul>
  );
}

function groupedDecimal(value: string): string {
  const [whole = '', decimals] = value.split('.');
  return decimals === undefined ? grouped(whole) : `${grouped(whole)}.${decimals}`;
}
