import { useMemo, useState } from 'react';
import type { Span, SqlStep, TextStatement } from '@cendra/core';
import { unionsIn } from '@cendra/core';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';
import { FailureNotice } from '../../ui/notice';
import type { Bench } from '../use-bench';
import { useParts } from './part-dialog';

interface UnionsProps {
  readonly bench: Bench;
  readonly step: SqlStep;
  readonly text: string;
  readonly statement: TextStatement;
  /** Exchanges a stretch of the text. */
  onExchange(change: Span & { readonly instead: string }): void;
}

const NONE: readonly string[] = [];

/** The unions of a text that take repeated rows once, each with how many it removes, counted when asked for, all in one moment. */
export function Unions({ bench, step, text, statement, onExchange }: UnionsProps) {
  const unions = useMemo(() => unionsIn(text, statement), [text, statement]);
  /** The text they were counted of. */
  const [counted, setCounted] = useState<string>();
  const asked = counted === text;
  const texts = useMemo(() => (asked ? unions.flatMap(({ once, all }) => [once, all]) : NONE), [asked, unions]);
  const { answers, failure, waiting } = useParts(bench, step, texts);
  if (unions.length === 0) return null;
  const rowsAt = (at: number) => answers?.[at]?.rows[0]?.[0];
  return (
    <div className="mb-2">
      <ul aria-label="Unions of the text">
        {unions.map(({ from, to }, at) => {
          const [once, all] = asked ? [rowsAt(2 * at), rowsAt(2 * at + 1)] : [];
          const removed = once && all ? BigInt(all) - BigInt(once) : undefined;
          return (
            <li key={from} className="flex flex-wrap items-center gap-2">
              <span>union, line {text.slice(0, from).split('\n').length}</span>
              {removed !== undefined && (
                <span className={`figures ${removed === 0n ? 'text-amber' : 'text-ink-soft'}`}>
                  {removed === 0n ? 'removes no row' : `removes ${grouped(String(removed))}`} of {grouped(String(all))}
                </span>
              )}
              {removed === 0n && (
                <Button small onClick={() => onExchange({ from, to, instead: 'union all' })}>
                  Say union all
                </Button>
              )}
            </li>
          );
        })}
      </ul>
      <FailureNotice failure={failure} />
      <Button small disabled={asked && waiting && !failure} onClick={() => setCounted(text)}>
        {asked && waiting && !failure ? 'Counting …' : 'Count what they remove'}
      </Button>
    </div>
  );
}
