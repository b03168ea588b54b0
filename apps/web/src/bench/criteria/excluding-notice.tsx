import type { CriteriaStep, Excluding } from '@cendra/core';
import { clauseLines } from '@cendra/core';

/** Why no row is left: the clauses that exclude each other, and for each a row that fails only it. */
export function ExcludingNotice({ step, excluding }: { readonly step: CriteriaStep; readonly excluding: Excluding }) {
  const numbers = new Map(clauseLines(step.head, step.clauses).map((each) => [each.clause.id, each.number]));
  const named = excluding.clauses.map((id) => numbers.get(id) ?? '?');
  const alone = named.length === 1;
  return (
    <section aria-label="Why no row is left" className="px-4 py-4">
      <p className="font-medium text-rust">
        No row is left. {alone ? `Clause ${named[0]} alone drops every row.` : `Clauses ${listed(named)} exclude each other.`}
      </p>
      <p className="text-ink-soft">
        {!alone &&
          (excluding.smallest
            ? 'No smaller set of clauses does. Each row below passes the others of them.'
            : 'None of these can be left out; another set may be smaller.')}
      </p>
      <ul className="mt-1 space-y-0.5">
        {excluding.examples.map(({ clause, values }) => (
          <li key={clause} className="flex flex-wrap gap-x-3">
            <span className="text-ink-soft">
              {alone ? `Clause ${numbers.get(clause)} drops` : `Only clause ${numbers.get(clause)} drops`}
            </span>
            {values.map(({ name, value }) => (
              <span key={name} className="figures">
                <span className="text-ink-soft">{name}</span> {value ?? <span className="text-ink-faint">null</span>}
              </span>
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
}

const listed = (words: readonly string[]) => (words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`);
