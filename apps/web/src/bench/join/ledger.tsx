import { useMemo } from 'react';
import type { EvidenceLine, JoinEvidence, JoinOutcome, Kept } from '@cendra/core';
import { joinName, withArticle } from '@cendra/core';
import { useAnswer } from '../../runs/use-answer';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';
import { FailureNotice } from '../../ui/notice';
import { Expected } from './expected';
import type { JoinProps } from './join-editor';
import { Multiplied } from './multiplied';
import type { SideWords } from './sides';
import { becomeOf, lineOf, severalOf, total, wordsOf } from './sides';
import { NearMissNotice } from './near-misses';

interface Line {
  readonly outcome: JoinOutcome;
  readonly words: string;
  readonly count: EvidenceLine;
  /** What decides whether its rows are kept. */
  readonly slot: keyof Kept;
  readonly become?: string;
}

/** What becomes of the rows of both sides: one written line an outcome, whether it is kept, and the sum below. */
export function Ledger(props: JoinProps) {
  const { bench, join, problems, place, change, onOutcome } = props;
  const { step } = join;
  const ready = step.pairs.length > 0 || step.everyPair;
  const sound = !problems.some(({ place, severity }) => severity === 'error' && place.clause !== undefined);
  const question = useMemo(() => (ready && sound ? ({ kind: 'evidence', ...place } as const) : undefined), [ready, sound, place]);
  const { answer, waiting, failure, again } = useAnswer(bench, question);
  // Of a free condition counting costs the join itself: where that takes longer than the source allows, what it expects stays.
  const tooLong = failure?.problems.some(({ code }) => code === 'statement-too-long') ?? false;
  const early = useMemo(
    () => (question && (waiting || tooLong) ? ({ kind: 'expected evidence', ...place } as const) : undefined),
    [question, waiting, tooLong, place],
  );
  const { answer: expected } = useAnswer(bench, early, BIG);
  if (!ready) return null;
  const [left, right] = wordsOf(props);
  const keep = (slot: keyof Kept) => change.set('keeps', { ...step.keeps, [slot]: !step.keeps[slot] });
  const lines = answer ? linesOf(answer, left, right, step.one !== null) : [];
  return (
    <section aria-label="Match ledger" className="mt-3">
      <div className="flex items-end justify-between gap-2">
        <h3 className="font-medium">What becomes of the rows</h3>
        <span className="flex gap-4 text-meta text-ink-soft">
          {waiting && question && <span role="status">counting …</span>}
          <span className="w-20 text-right">rows</span>
          <span className="w-20 text-right">distinct keys</span>
        </span>
      </div>
      {tooLong ? (
        <p role="status" className="flex flex-wrap items-center gap-2 text-amber">
          Counting took longer than the source allows; this is what it expects.
          <Button small onClick={again}>
            Count exactly
          </Button>
        </p>
      ) : (
        <FailureNotice failure={failure} />
      )}
      {!answer && expected && <Expected expected={expected} keeps={step.keeps} one={step.one !== null} left={left} right={right} />}
      <ol className="border-t">
        {lines.map((line) => (
          <LedgerLine
            key={line.outcome}
            line={line}
            kept={step.keeps[line.slot]}
            locked={bench.withoutValues}
            onKeep={() => keep(line.slot)}
            onShow={() => onOutcome(line.outcome, line.words)}
          />
        ))}
      </ol>
      {answer && (
        <p className="figures border-t-2 border-line py-1 font-medium">
          {grouped(answer.left.all.rows)} {left.rows} become {grouped(rowsOf(answer, step.keeps, step.one !== null))} rows
        </p>
      )}
      <p className="text-meta text-ink-soft">
        {joinName(step.keeps, !(step.everyPair && step.pairs.length === 0)) ?? 'keeps nothing'}. Space keeps or leaves out, Enter shows the
        rows.
      </p>
      {answer &&
        [
          { side: answer.left, rows: left.rows },
          { side: answer.right, rows: right.rows },
        ].map(
          ({ side, rows }) =>
            side.failed !== '0' && (
              <p key={rows} className="figures text-amber">
                In {grouped(side.failed)} {rows} what they meet by could not be computed; they meet nothing.
              </p>
            ),
        )}
      {answer && <Multiplied {...props} evidence={answer} left={left} right={right} />}
      {answer && <NearMissNotice {...props} />}
    </section>
  );
}

/** How long counting may take before what is expected stands in its place; in ms. */
const BIG = 300;

interface LedgerLineProps {
  readonly line: Line;
  readonly kept: boolean;
  readonly locked: boolean;
  readonly onKeep: () => void;
  readonly onShow: () => void;
}

function LedgerLine({ line, kept, locked, onKeep, onShow }: LedgerLineProps) {
  const { words, count, become } = line;
  return (
    <li className="flex items-center gap-3 border-b py-1">
      <button
        type="button"
        aria-pressed={kept}
        aria-label={`${kept ? 'keep' : 'leave out'} ${words}, ${count.rows} rows`}
        disabled={locked}
        onClick={onKeep}
        onKeyDown={(event) => {
          if (event.key !== 'Enter') return;
          event.preventDefault();
          onShow();
        }}
        className={`slot w-20 text-center ${kept ? 'text-moss' : 'text-rust'}`}
      >
        {kept ? 'keep' : 'leave out'}
      </button>
      <button
        type="button"
        title="Show these rows"
        onClick={onShow}
        className={`min-w-0 flex-1 text-left hover:underline ${kept ? '' : 'text-ink-soft'}`}
      >
        {words}
        {become !== undefined && <span className="figures text-amber">, become {grouped(become)} rows</span>}
      </button>
      <span className="figures w-20 text-right">{grouped(count.rows)}</span>
      <span className="figures w-20 text-right text-ink-soft">{grouped(count.keys)}</span>
    </li>
  );
}

function linesOf(evidence: JoinEvidence, left: SideWords, right: SideWords, one: boolean): readonly Line[] {
  const several = severalOf(evidence.left);
  // One null is enough for a row to meet none.
  const by = evidence.by.length > 1 ? `${evidence.by.slice(0, -1).join(', ')} or ${evidence.by.at(-1)}` : (evidence.by[0] ?? 'key');
  const lines: readonly Line[] = [
    { outcome: 'one', slot: 'met', words: `${left.rows} with one ${right.row}`, count: lineOf(evidence.left, (each) => each === '1') },
    {
      outcome: 'several',
      slot: 'met',
      words: `${left.rows} with several ${right.rows}`,
      count: several,
      ...(several.rows === '0' || one ? {} : { become: becomeOf(evidence.left) }),
    },
    { outcome: 'left alone', slot: 'left', words: `${left.rows} without ${withArticle(right.row)}`, count: evidence.left.alone },
    { outcome: 'left null', slot: 'left', words: `${left.rows} whose ${by} is null`, count: evidence.left.nulls },
    { outcome: 'right alone', slot: 'right', words: `${right.rows} without ${withArticle(left.row)}`, count: evidence.right.alone },
    { outcome: 'right null', slot: 'right', words: `${right.rows} whose own side of it is null`, count: evidence.right.nulls },
  ];
  return lines.filter(({ outcome, count }) => !outcome.endsWith('null') || count.rows !== '0');
}

/** The rows the join gives, told from its evidence. */
export function rowsOf({ left, right, met }: JoinEvidence, keeps: Kept, one: boolean): string {
  const matched = total(left.partners.map((each) => each.rows));
  return total([
    ...(keeps.met ? [one ? matched : met] : []),
    ...(keeps.left ? [left.alone.rows, left.nulls.rows] : []),
    ...(keeps.right ? [right.alone.rows, right.nulls.rows] : []),
  ]);
}
