import { useEffect, useMemo, useState } from 'react';
import type { Problem, ScriptsAround, TableLike, TextContext, TextStep } from '@cendra/core';
import type { Known } from './completion';
import { reading } from './reading';

/** How long typing has to rest before the grammar looks at the text. */
const REST_MS = 120;

/** What the grammar says of a text or a script, and what is worth a look in it; undefined until it has looked at this one. */
export function useRead(
  kind: TextStep['kind'],
  text: string,
  { described, parameters }: Known,
  met: TextContext['met'],
  around?: ScriptsAround,
): readonly Problem[] | undefined {
  const [read, setRead] = useState<{ readonly text: string; readonly problems: readonly Problem[] }>();
  const context = useMemo(
    (): TextContext => ({
      tables: described.map(({ schema, name, columns, keys }) => ({
        schema,
        name,
        columns: columns.map((each) => ({
          name: each.name,
          type: each.type as TableLike['columns'][number]['type'],
          nullable: each.nullable,
        })),
        keys: keys.map((each) => ({ columns: each.columns })),
      })),
      parameters: parameters.map(({ name, type }) => ({ name, type })),
      met,
    }),
    [described, parameters, met],
  );
  useEffect(() => {
    let current = true;
    const look = () =>
      void reading()
        .problemsOf(kind, text, context, around)
        .then((problems) => {
          if (current) setRead({ text, problems });
        });
    const timer = setTimeout(look, REST_MS);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [kind, text, context, around]);
  return read?.text === text ? read.problems : undefined;
}
