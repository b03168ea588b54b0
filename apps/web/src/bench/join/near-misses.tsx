import { useMemo } from 'react';
import type { ComparedPair, NearMiss, NearMissCount } from '@cendra/core';
import { listedWords, switchWords } from '@cendra/core';
import { useAnswer } from '../../runs/use-answer';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';
import { CellText } from '../../ui/cell';
import type { JoinProps } from './join-editor';
import { RowsButton } from './rows-button';

/** Of every pair of texts: values that would meet but for how they are written. */
export function NearMissNotice(props: JoinProps) {
  const { checked, step } = props.join;
  const equal = checked.pairs.every((each) => each.equal !== undefined);
  const pairs = equal
    ? checked.pairs.flatMap(({ pair, sides }) =>
        pair.kind === 'compared' && pair.comparison === '=' && [sides?.left, sides?.right].some((each) => each?.type.kind === 'text')
          ? [pair]
          : [],
      )
    : [];
  return pairs.map((pair) => <OfPair key={pair.id} {...props} pair={pair} alone={step.pairs.length === 1} />);
}

function OfPair({ bench, place, change, onOutcome, pair, alone }: JoinProps & { readonly pair: ComparedPair; readonly alone: boolean }) {
  const question = useMemo(() => ({ kind: 'near misses', ...place, pair: pair.id }) as const, [place, pair.id]);
  const { answer } = useAnswer(bench, question);
  if (!answer || answer.counts.length === 0) return null;
  const offers = worthOffering(answer.counts);
  const show = (miss: NearMiss, words: string) =>
    onOutcome('left alone', `rows with ${words} and without a partner`, { pair: pair.id, values: [miss.left, ...miss.others] });
  const take = ({ overlooks }: NearMissCount) => change.putPair(pair, { ...pair, overlooks });
  return (
    <section aria-label="Near misses" className="mt-3">
      <h3 className="font-medium">Near misses{alone ? '' : ` of ${pair.left.text}`}</h3>
      <ul className="border-t">
        {offers.map((each) => (
          <li key={each.overlooks.join()} className="flex items-center gap-3 border-b py-1">
            <span className="min-w-0 flex-1">
              would meet whatever {listedWords(each.overlooks.map(switchWords))}
              {each.become !== each.rows && <span className="figures text-amber">, and become {grouped(each.become)} rows</span>}
            </span>
            <span className="figures w-20 text-right">{grouped(each.rows)}</span>
            <span className="figures w-20 text-right text-ink-soft">{grouped(each.keys)}</span>
            {!bench.withoutValues && (
              <Button small onClick={() => take(each)}>
                Match them
              </Button>
            )}
          </li>
        ))}
      </ul>
      <table className="mt-1 w-full" aria-label="Near misses, in pairs">
        <tbody>
          {answer.pairs.slice(0, 8).map((each, at) => (
            <tr key={at} className="border-b">
              <td className="py-0.5">
                <CellText text={each.left} />
              </td>
              <td className="text-ink-soft">nearly meets</td>
              <td>
                <CellText text={each.right} />
              </td>
              <td className="text-meta text-ink-soft">{listedWords(each.overlooks.map(switchWords))}</td>
              <td className="figures w-20 text-right">
                <RowsButton
                  rows={each.rows}
                  of={[pair.left.text, each.left].join(' ')}
                  onRows={place.partner === undefined ? (words) => show(each, words) : undefined}
                />
              </td>
              <td className="w-20" />
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** Each difference alone, and the fewest together that bring most. */
function worthOffering(counts: readonly NearMissCount[]): readonly NearMissCount[] {
  const fewest = Math.min(...counts.map((each) => each.overlooks.length));
  const single = counts.filter((each) => each.overlooks.length === fewest);
  const most = counts.reduce((best, each) => (Number(each.rows) > Number(best.rows) ? each : best));
  const least = counts
    .filter((each) => each.rows === most.rows)
    .reduce((best, each) => (each.overlooks.length < best.overlooks.length ? each : best));
  return single.includes(least) ? single : [...single, least];
}
