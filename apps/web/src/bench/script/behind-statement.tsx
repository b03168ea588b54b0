import { useState } from 'react';
import type { ScriptStep, ToldScript, ToldStatement, ToldTemp } from '@cendra/core';
import { grouped } from '../../ui/format';
import { ProblemLine } from '../../ui/notice';
import { Said } from '../../ui/said';
import { TempTable } from './temp-table';
import { changeWords } from './words';

export interface BehindStatementProps {
  readonly told: ToldScript;
  readonly statement: ToldStatement;
  readonly step: ScriptStep;
  /** Says what tells the rows of a temp table apart; left out where nothing may be changed. */
  readonly onKey: ((table: string, columns: readonly string[]) => void) | undefined;
  /** Shows it with more room; left out where it has that. */
  onLarge?(): void;
}

/** What stood behind a statement: what it said, the rows it gave, and the temp tables with what it changed in them. */
export function BehindStatement({ told, statement, step, onKey, onLarge }: BehindStatementProps) {
  const { number, state, problems, messages, first, temps } = statement;
  const [opened, setOpened] = useState<string>();
  const [saying, setSaying] = useState(false);
  const open = temps.find((each) => each.name === opened) ?? temps.find((each) => each.touched) ?? temps[0];
  const last = open && touchedLast(told, number, open.name);
  const said = open && step.tempKeys?.find((each) => each.table === open.name)?.columns;
  const key = said ?? open?.key ?? [];
  // What is said now was compared by only once it has run.
  const compared = open === undefined || key.join('\n') === open.key.join('\n');
  return (
    <section aria-label={`Behind statement ${number}`} className="min-h-0 flex-1 overflow-auto px-3 py-2">
      {state === 'not run' && <p className="text-ink-soft">Statement {number} has not run.</p>}
      {problems.map((each, index) => (
        <div key={index} role="alert">
          <ProblemLine problem={each} />
        </div>
      ))}
      <div className="mb-2 empty:hidden">
        <Said label={`Said by statement ${number}`} messages={messages} />
      </div>
      {first && (
        <>
          <p className="text-ink-soft">
            {Number(statement.rows) > first.rows.length
              ? `The first ${first.rows.length} of its ${grouped(statement.rows ?? '0')} rows`
              : 'Its rows'}
          </p>
          <TempTable
            temp={{
              name: `statement ${number}`,
              columns: first.columns.map((name) => ({ name, type: '' })),
              key: [],
              count: String(first.rows.length),
            }}
            touched={{ change: { by: 'making', added: first.rows.length }, rows: first.rows }}
            changing={false}
          />
        </>
      )}
      {state === 'ran' && temps.length === 0 && !first && <p className="text-ink-soft">No temp table stands behind it.</p>}
      {temps.length > 0 && (
        <>
          <p className="flex flex-wrap items-center gap-x-3 gap-y-1">
            <span className="text-ink-soft">Behind it</span>
            {temps.map((each) => (
              <button
                key={each.name}
                type="button"
                aria-pressed={each.name === open?.name}
                onClick={() => setOpened(each.name)}
                className={`border-b ${each.name === open?.name ? 'border-ember font-medium' : 'border-transparent hover:border-line'}`}
              >
                {each.name} <span className="figures font-normal text-ink-soft">{grouped(each.count)}</span>
              </button>
            ))}
            {onLarge && (
              <button type="button" onClick={onLarge} className="ml-auto text-ink-soft underline underline-offset-2">
                With more room …
              </button>
            )}
          </p>
          {open && (
            <>
              <p role="status" className="mt-1">
                {open.touched ? changeWords(open.touched.change) : `not touched here; as statement ${last?.number ?? number} left it`}
                <span className="text-ink-soft">
                  {key.length > 0
                    ? `. Rows told apart by ${key.join(', ')}${said ? '' : ', its primary key'}${compared ? '' : ', once the statements run again'}.`
                    : '.'}
                </span>{' '}
                {onKey && (
                  <button
                    type="button"
                    aria-expanded={saying}
                    onClick={() => setSaying(!saying)}
                    className="text-ink-soft underline underline-offset-2"
                  >
                    {saying ? 'Said' : key.length > 0 ? 'Another key …' : 'Say a key …'}
                  </button>
                )}
              </p>
              {last && (
                <TempTable
                  temp={{ ...open, key }}
                  touched={last.touched}
                  changing={open.touched !== undefined}
                  onKey={saying && onKey ? (columns) => onKey(open.name, columns) : undefined}
                />
              )}
            </>
          )}
        </>
      )}
    </section>
  );
}

/** The statement, up to one, that touched a temp table last, and what it told of it. */
function touchedLast({ statements }: ToldScript, number: number, name: string) {
  const found = statements
    .slice(0, number)
    .flatMap((each): readonly { readonly number: number; readonly touched: NonNullable<ToldTemp['touched']> }[] => {
      const touched = each.temps.find((temp) => temp.name === name)?.touched;
      return touched ? [{ number: each.number, touched }] : [];
    });
  return found.at(-1);
}
