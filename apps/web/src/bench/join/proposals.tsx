import type { RefObject } from 'react';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { ProposedPairs, Share } from '@cendra/core';
import { comparedPair, fieldById, fieldText, partnerFields, proposedPairs } from '@cendra/core';
import { useAnswer } from '../../runs/use-answer';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';
import { FailureNotice } from '../../ui/notice';
import { pressed } from '../../ui/pressed';
import { mint } from '../mint';
import type { JoinProps } from './join-editor';

/** Pairs that could say which rows meet, best first, each with what it rests on. Nothing is taken by itself. */
export function Proposals({ bench, join, place, change }: JoinProps) {
  const { trail } = bench;
  const { step, arriving } = join;
  const [wanted, setWanted] = useState(false);
  const open = wanted || (step.pairs.length === 0 && !step.everyPair);
  const proposals = useMemo(() => (open ? proposedPairs(trail, place) : []), [open, trail, place]);
  const question = useMemo(
    () => (proposals.length > 0 ? ({ kind: 'shares', ...place, proposals: proposals.map((each) => each.pairs) } as const) : undefined),
    [proposals, place],
  );
  const { answer, waiting, failure } = useAnswer(bench, question);
  const left = arriving[0]?.schema ?? { fields: [] };
  const right = { fields: partnerFields(step, arriving[1]?.schema ?? { fields: [] }) };
  const take = ({ pairs }: ProposedPairs) => {
    change.addPairs(
      pairs.flatMap((each) => {
        const [a, b] = [fieldById(left, each.left), fieldById(right, each.right)];
        return a && b ? [comparedPair({ id: mint(), left: fieldText(a), right: fieldText(b) })] : [];
      }),
    );
    setWanted(false);
  };
  const ranked = proposals
    .map((proposal, at) => ({ proposal, share: answer?.[at] }))
    // What is found nowhere on the other side says nothing, unless the source declares it.
    .filter(({ proposal, share }) => proposal.because === 'declared key' || share === undefined || share.both !== '0')
    .toSorted((a, b) => rank(b.proposal, b.share) - rank(a.proposal, a.share));
  const list = useRef<HTMLUListElement>(null);
  useFocusOnBest(list, ranked[0] && keyOf(ranked[0].proposal));
  if (!open)
    return (
      <Button small kind="quiet" onClick={() => setWanted(true)}>
        Propose pairs
      </Button>
    );
  return (
    <section aria-label="Proposed pairs" className="mt-3">
      <div className="flex items-center gap-3">
        <h3 className="font-medium">Proposed</h3>
        {waiting && question && <span className="text-meta text-ink-soft">measuring on the rows …</span>}
        {step.pairs.length > 0 && (
          <Button small kind="quiet" onClick={() => setWanted(false)}>
            Close
          </Button>
        )}
      </div>
      <FailureNotice failure={failure} />
      {ranked.length === 0 && (
        <p className="text-ink-soft">Nothing suggests which rows meet. Add a pair of fields by hand; their names may differ.</p>
      )}
      <ul ref={list} className="border-t" aria-label="Proposals">
        {ranked.map(({ proposal, share }, at) => (
          <li key={keyOf(proposal)} data-pairs={keyOf(proposal)} className="flex items-center gap-3 border-b py-1">
            <Button
              small
              kind={at === 0 ? 'primary' : 'plain'}
              autoFocus={at === 0 && step.pairs.length === 0}
              // Measuring changes the order while one reaches for it.
              {...pressed(() => take(proposal))}
            >
              Take
            </Button>
            <span className="min-w-0">
              {proposal.pairs
                .map((each) => `${fieldById(left, each.left)?.name ?? '?'} equals ${fieldById(right, each.right)?.name ?? '?'}`)
                .join(' and ')}
            </span>
            <span className="ml-auto text-right text-meta text-ink-soft">
              {proposal.words}
              {share && <span className="figures block">{shareWords(share)}</span>}
            </span>
          </li>
        ))}
      </ul>
      {step.pairs.length === 0 && place.partner === undefined && <EveryPair bench={bench} place={place} change={change} />}
    </section>
  );
}

const keyOf = ({ pairs }: ProposedPairs) => pairs.map((each) => `${each.left} ${each.right}`).join();

/** Where measuring brings another proposal to the top, the focus goes there from the one that was, and from no other place. */
function useFocusOnBest(list: RefObject<HTMLUListElement | null>, best: string | undefined): void {
  const known = useRef<string>(undefined);
  useEffect(() => {
    const before = known.current;
    known.current = best;
    const focused = document.activeElement?.closest<HTMLElement>('[data-pairs]')?.dataset.pairs;
    if (before !== undefined && before !== best && focused === before) list.current?.querySelector('button')?.focus();
  }, [list, best]);
}

/** A declared key stands before anything measured; then the share of the first side's values that is found. */
function rank({ because }: ProposedPairs, share: Share | undefined): number {
  const found = share && share.left !== '0' ? Number(share.both) / Number(share.left) : 0;
  return (because === 'declared key' ? 100 : 0) + (because === 'unique on the other side' ? 0.2 : 0) + found;
}

function shareWords({ left, right, both, become }: Share): string {
  const found = both === '0' ? 'no value is found on the other side' : `${grouped(both)} of ${grouped(left)} values found there`;
  return `${found}, ${grouped(both)} of ${grouped(right)} found here; ${grouped(become)} rows meet`;
}

/** Without any pair, every row meets every other: only on request, with the number of rows beside it. */
function EveryPair({ bench, place, change }: Pick<JoinProps, 'bench' | 'place' | 'change'>) {
  const [asked, setAsked] = useState(false);
  const question = useMemo(
    () => (asked ? ({ kind: 'evidence', ...place, tried: { pairs: [], everyPair: true } } as const) : undefined),
    [asked, place],
  );
  const { answer, waiting, failure } = useAnswer(bench, question);
  if (!asked)
    return (
      <Button small kind="quiet" onClick={() => setAsked(true)}>
        Every row with every other (cross join) …
      </Button>
    );
  return (
    <div className="mt-1 flex flex-wrap items-center gap-3">
      {waiting && <span className="text-ink-soft">Counting …</span>}
      <FailureNotice failure={failure} />
      {answer && (
        <>
          <span className="figures">
            {grouped(answer.left.all.rows)} rows with each of {grouped(answer.right.all.rows)} become {grouped(answer.met)} rows.
          </span>
          <Button small onClick={() => change.set('everyPair', true)}>
            Make every pair
          </Button>
        </>
      )}
      <Button small kind="quiet" onClick={() => setAsked(false)}>
        Leave it
      </Button>
    </div>
  );
}
