import { useMemo } from 'react';
import { Link, useLocation } from 'react-router';
import type { SheetField } from '@cendra/core';
import { lineageOf } from '@cendra/core';
import { api } from '../api';
import type { Bench } from '../bench/use-bench';

/** Where a field comes from, step by step, and which steps ask about it. */
export function LineageLines({ bench, field }: { readonly bench: Bench; readonly field: SheetField }) {
  const { columns, madeIn, usedIn } = useMemo(() => lineageOf(bench.trail, field.id), [bench.trail, field.id]);
  const sources = api.useSourcesListQuery().data ?? [];
  const { search } = useLocation();
  const to = (step: string) => {
    const next = new URLSearchParams(search);
    next.set('step', step);
    return { pathname: '../bench', search: `?${next.toString()}` };
  };
  const nameOf = (id: string) => sources.find((each) => each.id === id)?.name ?? 'a source that was removed';
  return (
    <section aria-label="Where it comes from" className="border-t pt-2">
      <h3 className="font-medium">Where it comes from</h3>
      <ul>
        {columns.map(({ step, source, table, column }) => (
          <li key={`${step} ${column}`} className="truncate">
            <span className="font-mono">
              {table}.{column}
            </span>{' '}
            <span className="text-ink-soft">in {nameOf(source)}</span>
          </li>
        ))}
        {madeIn.map(({ step, title, how }, index) => (
          <li key={`${step} ${index}`} className="text-ink-soft">
            <Link relative="path" to={to(step)} className="text-ink underline underline-offset-2">
              {title}
            </Link>{' '}
            <span className="font-mono text-meta break-words">{how}</span>
          </li>
        ))}
      </ul>
      {usedIn.length > 0 && (
        <>
          <h3 className="mt-2 font-medium">What asks about it</h3>
          <ul>
            {usedIn.map(({ step, title }) => (
              <li key={step}>
                <Link relative="path" to={to(step)} className="underline underline-offset-2">
                  {title}
                </Link>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
