import { useMemo, useState } from 'react';
import type { SqlStep, TextStatement } from '@cendra/core';
import { commonTablesIn, countedTable } from '@cendra/core';
import { Button } from '../../ui/button';
import { FailureNotice } from '../../ui/notice';
import type { Bench } from '../use-bench';
import { useParts } from './part-dialog';

interface CommonTablesProps {
  readonly bench: Bench;
  readonly step: SqlStep;
  readonly text: string;
  readonly statement: TextStatement;
}

const NONE: readonly string[] = [];

/** The common table expressions of a text, each with how many rows it has, counted when asked for, all in one moment. */
export function CommonTables({ bench, step, text, statement }: CommonTablesProps) {
  const tables = useMemo(() => commonTablesIn(statement), [statement]);
  /** The text they were counted of. */
  const [counted, setCounted] = useState<string>();
  const asked = counted === text;
  const texts = useMemo(() => (asked ? tables.map((each) => countedTable(text, statement, each)) : NONE), [asked, tables, text, statement]);
  const { answers, failure, waiting } = useParts(bench, step, texts);
  if (tables.length === 0) return null;
  return (
    <div className="mb-2">
      <ul aria-label="Parts of the text">
        {tables.map(({ name, from }, at) => (
          <li key={from} className="flex justify-between gap-2">
            <span className="truncate font-mono">{name}</span>
            <span className="figures">{asked && answers?.[at]?.rows[0]?.[0]}</span>
          </li>
        ))}
      </ul>
      <FailureNotice failure={failure} />
      <Button small disabled={asked && waiting && !failure} onClick={() => setCounted(text)}>
        {asked && waiting && !failure ? 'Counting …' : 'Count their rows'}
      </Button>
    </div>
  );
}
