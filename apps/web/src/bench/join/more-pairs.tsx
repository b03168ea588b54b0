import { useMemo } from 'react';
import type { JoinEvidence } from '@cendra/core';
import { comparedPair, fieldById, fieldText, partnerFields, proposedPairs } from '@cendra/core';
import { useAnswer } from '../../runs/use-answer';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';
import { mint } from '../mint';
import type { JoinProps } from './join-editor';

/** Pairs that would tell the partners of a row apart besides those there are, each with how many of the rows that meet it would leave, counted. */
export function MorePairs({ bench, join, place, change, evidence }: JoinProps & { readonly evidence: JoinEvidence }) {
  const { trail } = bench;
  const { step, arriving, checked } = join;
  const known = useMemo(() => checked.pairs.flatMap((each) => each.fields ?? []), [checked.pairs]);
  const plain = known.length === step.pairs.length && known.length > 0;
  const candidates = useMemo(() => {
    const used = new Set(known.flatMap((each) => [each.left, each.right]));
    return plain
      ? proposedPairs(trail, place).filter(({ pairs }) => pairs.every((each) => !used.has(each.left) && !used.has(each.right)))
      : [];
  }, [plain, known, trail, place]);
  const question = useMemo(
    () =>
      candidates.length > 0
        ? ({ kind: 'shares', ...place, proposals: candidates.map((each) => [...known, ...each.pairs]) } as const)
        : undefined,
    [candidates, known, place],
  );
  const { answer } = useAnswer(bench, bench.withoutValues ? undefined : question, 300);
  const left = arriving[0]?.schema ?? { fields: [] };
  const right = { fields: partnerFields(step, arriving[1]?.schema ?? { fields: [] }) };
  const fewer = candidates.flatMap((proposal, at) => {
    const become = answer?.[at]?.become;
    return become !== undefined && BigInt(become) < BigInt(evidence.met) && become !== '0' ? [{ proposal, become }] : [];
  });
  return fewer.map(({ proposal: { pairs }, become }) => (
    <Button
      key={pairs.map((each) => `${each.left} ${each.right}`).join()}
      small
      onClick={() =>
        change.addPairs(
          pairs.flatMap((each) => {
            const [a, b] = [fieldById(left, each.left), fieldById(right, each.right)];
            return a && b ? [comparedPair({ id: mint(), left: fieldText(a), right: fieldText(b) })] : [];
          }),
        )
      }
    >
      {`Also ${pairs
        .map((each) => `${fieldById(left, each.left)?.name ?? '?'} equals ${fieldById(right, each.right)?.name ?? '?'}`)
        .join(' and ')}: ${grouped(become)} of ${grouped(evidence.met)} rows meet`}
    </Button>
  ));
}
