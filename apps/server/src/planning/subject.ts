import type { CheckedTrail, Definition, KnownTable } from '@cendra/core';
import { catalogueOf, checkTrail, kindOf } from '@cendra/core';

/** What is planned for: a definition, and what is known of the tables it reads. */
export interface Subject {
  /** Tells it from others as long as the server runs, also in a thread that has only a copy of it. */
  readonly id: number;
  readonly definition: Definition;
  readonly known: readonly KnownTable[];
}

const subjects = new WeakMap<Definition, Subject & { readonly key: string }>();
let last = 0;

/** One and the same while the tables are known to look alike. */
export function subjectOf(definition: Definition, known: readonly KnownTable[]): Subject {
  const key = JSON.stringify(known);
  const remembered = subjects.get(definition);
  if (remembered?.key === key) return remembered;
  const subject = { id: ++last, definition, known, key };
  subjects.set(definition, subject);
  return subject;
}

const trails = new WeakMap<Subject, CheckedTrail>();

/** Checked once. */
export function trailOf(subject: Subject): CheckedTrail {
  const trail = trails.get(subject) ?? checkTrail(subject.definition, catalogueOf(subject.known));
  trails.set(subject, trail);
  return trail;
}

/** How much there is to read and plan, in characters of expressions; columns and clauses count as some. */
export function weightOf({ definition }: Pick<Subject, 'definition'>): number {
  return definition.steps.reduce((sum, step) => {
    const kind = kindOf(step);
    const written = kind.written(step).reduce((length, { text }) => length + text.length, 0);
    return sum + written + 10 * (kind.mints(step).length + kind.uses(step, []).length + 1);
  }, 0);
}
