import { lazy, Suspense, useState } from 'react';
import { Link, useLocation } from 'react-router';
import type { Problem, TextStep } from '@cendra/core';
import { checkedStep, ofKind, reportFields, whyOf } from '@cendra/core';
import { EmptyState, ProblemLine } from '../../ui/notice';
import { WORDS } from '../../ui/words';
import { textsIn } from '../sql/texts-in';
import type { Bench } from '../use-bench';
import { Fixes } from './fixes';

const FoundInText = lazy(() => import('../sql/found-in-text'));

/** Everything the checks found in the dataset, by step: where it is, why it matters, and how it is mended. */
export function FindingsDrawer({ bench }: { readonly bench: Bench }) {
  const { trail, withoutValues } = bench;
  const texts = withoutValues ? [] : textsIn(trail);
  if (trail.problems.length === 0 && texts.length === 0) return <EmptyState>No findings.</EmptyState>;
  const groups = [
    ...trail.steps.map(({ step, title }) => ({ id: step.id as string | undefined, title })),
    { id: undefined, title: 'The dataset as it is handed over' },
  ];
  return (
    <div>
      {groups.map(({ id, title }) => {
        const found = trail.problems.filter((each) => each.place.step === id);
        if (found.length === 0) return null;
        return (
          <section key={id ?? 'dataset'} aria-label={title} className="border-b px-3 py-2">
            <h3 title={id === undefined ? WORDS['handed over'] : undefined} className="font-medium">
              {id === undefined ? (
                title
              ) : (
                <PlaceLink tab="bench" name="step" id={id}>
                  {title}
                </PlaceLink>
              )}
            </h3>
            <ul className="space-y-2">
              {found.map((problem, index) => (
                <Finding key={index} bench={bench} problem={problem} />
              ))}
            </ul>
          </section>
        );
      })}
      {texts.map((step) => (
        <InText key={step.id} bench={bench} step={step} title={checkedStep(trail, step.id)?.title ?? ''} />
      ))}
    </div>
  );
}

/** What is found in a text of SQL, which is read only now: its grammar is large. */
function InText({ bench, step, title }: { readonly bench: Bench; readonly step: TextStep; readonly title: string }) {
  const [count, setCount] = useState<number>();
  return (
    <section aria-label={`Text of ${title}`} className="border-b px-3 py-2">
      <h3 className="font-medium">
        <PlaceLink tab="bench" name="step" id={step.id}>
          {title}
        </PlaceLink>
        , its text
      </h3>
      {count === 0 && <p className="text-ink-soft">Nothing was found in it.</p>}
      <Suspense fallback={<p className="text-ink-soft">Reading the text …</p>}>
        <FoundInText bench={bench} step={step} onFound={setCount} />
      </Suspense>
    </section>
  );
}

function Finding({ bench, problem }: { readonly bench: Bench; readonly problem: Problem }) {
  const where = placeWords(problem, bench);
  return (
    <li className="space-y-1">
      <ProblemLine problem={problem} />
      <p className="pl-5.5 text-meta text-ink-soft">
        {where !== '' && (
          <span className="text-ink">
            {problem.place.step === undefined && problem.place.field !== undefined ? (
              <PlaceLink tab="fields" name="field" id={problem.place.field}>
                {where}
              </PlaceLink>
            ) : (
              where
            )}
            .{' '}
          </span>
        )}
        {whyOf(problem)}
      </p>
      <Fixes bench={bench} problem={problem} />
    </li>
  );
}

/** The field, clause or parameter a finding is about, by its name. */
function placeWords({ place }: Problem, { trail }: Bench): string {
  const { field, parameter, clause, step } = place;
  const named = parameter === undefined ? undefined : trail.definition.parameters.find((each) => each.id === parameter)?.name;
  const schema = trail.steps.find((each) => each.step.id === step)?.schema.fields ?? reportFields(trail).map((each) => each.field);
  const found = field === undefined ? undefined : schema.find((each) => each.id === field)?.name;
  const target = ofKind(
    'criteria',
    trail.definition.steps.find((each) => each.id === step),
  );
  const number = target && clause !== undefined ? target.clauses.findIndex((each) => each.id === clause) + 1 : 0;
  return [
    ...(number > 0 ? [`clause ${number}`] : []),
    ...(found === undefined ? [] : [`field ${found}`]),
    ...(named === undefined ? [] : [`parameter :${named}`]),
  ]
    .join(', ')
    .replace(/^./, (first) => first.toUpperCase());
}

interface PlaceLinkProps {
  readonly tab: 'bench' | 'fields';
  readonly name: 'step' | 'field';
  readonly id: string;
  readonly children: string;
}

/** Goes to the place, on whichever tab it is. */
function PlaceLink({ tab, name, id, children }: PlaceLinkProps) {
  const { search } = useLocation();
  const next = new URLSearchParams(search);
  next.set(name, id);
  return (
    <Link relative="path" to={{ pathname: `../${tab}`, search: `?${next.toString()}` }} className="text-left underline underline-offset-2">
      {children}
    </Link>
  );
}
