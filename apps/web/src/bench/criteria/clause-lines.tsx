import { useRef } from 'react';
import type { Clause, ClauseCounts, ClauseGroup, Condition, CriteriaStep, Edit, Problem, Schema } from '@cendra/core';
import {
  clauseLines,
  fieldById,
  groupClause,
  moveClause,
  parameterToValues,
  replaceClause,
  slotForm,
  ungroupClauses,
  valuesToParameter,
  writtenForm,
} from '@cendra/core';
import { ProblemLine } from '../../ui/notice';
import { mint } from '../mint';
import type { Bench } from '../use-bench';
import { ClauseHeads, Counts } from './clause-counts';
import { CLAUSE_ACTS, ClauseMenu } from './clause-menu';
import type { ClauseAct } from './clause-menu';
import { ClauseSlots } from './clause-slots';
import { KnownNotice } from './known-notice';

interface ClauseLinesProps {
  readonly bench: Bench;
  readonly step: CriteriaStep;
  readonly schema: Schema;
  readonly problems: readonly Problem[];
  readonly counts: ClauseCounts | undefined;
  readonly countsCurrent: boolean;
  /** The clause that was just added and takes the focus. */
  readonly fresh: string | undefined;
  readonly onAdd: (after: Clause) => void;
  readonly onAddTo: (group: ClauseGroup) => void;
}

const KEYS: Readonly<Record<string, ClauseAct>> = {
  F2: 'written',
  'Alt+ArrowUp': 'up',
  'Alt+ArrowDown': 'down',
  'Alt+Enter': 'add',
  'Alt+o': 'off',
  'Alt+p': 'parameter',
  'Alt+g': 'group',
  'Alt+Delete': 'remove',
};

/** Numbered clauses with their counts in columns at the right. */
export function ClauseLines({ bench, step, schema, problems, counts, countsCurrent, fresh, onAdd, onAddTo }: ClauseLinesProps) {
  const list = useRef<HTMLOListElement>(null);
  const lines = clauseLines(step.head, step.clauses);
  const countOf = new Map(counts?.clauses.map((each) => [each.clause, each]));
  const run = (edits: readonly (Edit | undefined)[] | undefined) => {
    const all = (edits ?? []).flatMap((each) => each ?? []);
    if (all.length > 0) bench.edit(...all);
  };
  const act = (what: ClauseAct, clause: Clause) => {
    const names = { schema, parameters: bench.trail.definition.parameters };
    const put = (to: Clause | undefined) => to && run([replaceClause(step, clause.id, [to])]);
    switch (what) {
      case 'written':
        if (clause.kind === 'condition') put(writtenForm(clause, names));
        if (clause.kind === 'expression') put(slotForm(clause, names));
        return;
      case 'up':
      case 'down':
        run([moveClause(step, clause.id, what === 'up' ? -1 : 1)]);
        return;
      case 'add':
        onAdd(clause);
        return;
      case 'off':
        put({ ...clause, off: !clause.off });
        return;
      case 'group':
        run([clause.kind === 'group' ? ungroupClauses(step, clause) : groupClause(mint, step, clause)]);
        return;
      case 'parameter':
        if (clause.kind === 'condition') run(exchanged(bench, step, clause, schema));
        return;
      case 'remove':
        run([replaceClause(step, clause.id, [])]);
    }
  };
  const onKeyDown = (event: React.KeyboardEvent, clause: Clause) => {
    const what = KEYS[`${event.altKey ? 'Alt+' : ''}${event.key.length === 1 ? event.key.toLowerCase() : event.key}`];
    if (!what || bench.withoutValues || !possible(what, clause, lines)) return;
    event.preventDefault();
    event.stopPropagation();
    const slot = document.activeElement instanceof HTMLElement ? document.activeElement.closest('li')?.dataset.clause : undefined;
    // What is being typed is kept before the clause changes.
    if (document.activeElement instanceof HTMLInputElement) document.activeElement.blur();
    act(what, clause);
    // A clause that is added takes the focus itself.
    if (what === 'add') return;
    requestAnimationFrame(() =>
      list.current?.querySelector<HTMLElement>(`[data-clause="${slot ?? clause.id}"] :is(input, button, [tabindex="0"])`)?.focus(),
    );
  };
  return (
    <>
      <ClauseHeads head={step.head} />
      <ol ref={list} className="border-t" aria-label="Clauses">
        {lines.map(({ clause, number, head, within }) => {
          const problem = problems.find((each) => each.place.clause === clause.id);
          return (
            <li
              key={clause.id}
              data-clause={clause.id}
              className={`border-b py-1 ${within.length > 0 ? 'pl-7' : ''}`}
              onKeyDownCapture={(event) => onKeyDown(event, clause)}
            >
              <div className="flex items-start gap-1.5">
                <span className="figures w-7 shrink-0 pt-1 text-right text-ink-soft">{number}</span>
                <div className={`flex min-w-0 flex-1 flex-wrap items-center gap-1.5 ${clause.off ? 'text-ink-faint line-through' : ''}`}>
                  <ClauseSlots
                    bench={bench}
                    step={step}
                    clause={clause}
                    schema={schema}
                    problem={problem}
                    fresh={fresh === clause.id}
                    onAddTo={onAddTo}
                    onChange={(to, ...before) => run([...before, replaceClause(step, clause.id, [to])])}
                  />
                  {clause.off && <span className="text-meta no-underline">off</span>}
                </div>
                {counts && countsCurrent && !clause.off && !countOf.has(clause.id) ? (
                  <span className="shrink-0 pt-1 text-meta text-ink-faint">not applied</span>
                ) : (
                  <Counts count={countOf.get(clause.id)} head={head} top={step.head} current={countsCurrent} />
                )}
                {!bench.withoutValues && (
                  <ClauseMenu
                    number={number}
                    clause={clause}
                    can={CLAUSE_ACTS.filter((what) => possible(what, clause, lines))}
                    onAct={(what) => act(what, clause)}
                  />
                )}
              </div>
              {problem && (
                <div className="pl-9" role="alert">
                  <ProblemLine problem={problem} />
                </div>
              )}
              {!problem && !clause.off && clause.kind === 'condition' && (
                <KnownNotice
                  bench={bench}
                  step={step}
                  clause={clause}
                  schema={schema}
                  onChange={(to) => run([replaceClause(step, clause.id, [to])])}
                />
              )}
            </li>
          );
        })}
      </ol>
    </>
  );
}

/** A condition's values become a parameter, or its parameter's values come back into it. */
function exchanged(bench: Bench, step: CriteriaStep, clause: Condition, schema: Schema): readonly Edit[] | undefined {
  const { definition } = bench.trail;
  const field = fieldById(schema, clause.field);
  const [asked] = clause.operands;
  if (asked?.kind !== 'parameter') return field && valuesToParameter(mint, definition, step, clause, field);
  const parameter = definition.parameters.find((each) => each.id === asked.id);
  return parameter && parameterToValues(definition, step, clause, bench.values[parameter.id] ?? parameter.startsAs);
}

function possible(what: ClauseAct, clause: Clause, lines: ReturnType<typeof clauseLines>): boolean {
  const inside = (lines.find((each) => each.clause.id === clause.id)?.within.length ?? 0) > 0;
  if (what === 'written') return clause.kind !== 'group';
  if (what === 'parameter') return clause.kind === 'condition' && clause.operands.length > 0;
  if (what === 'group') return !inside;
  return true;
}
