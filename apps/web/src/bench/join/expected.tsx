import type { ExpectedEvidence, Kept } from '@cendra/core';
import { withArticle } from '@cendra/core';
import { grouped } from '../../ui/format';
import type { SideWords } from './sides';
import { total } from './sides';

interface ExpectedProps {
  readonly expected: ExpectedEvidence;
  readonly keeps: Kept;
  readonly one: boolean;
  readonly left: SideWords;
  readonly right: SideWords;
}

/** The ledger as the source expects it, until it is counted. */
export function Expected({ expected, keeps, one, left, right }: ExpectedProps) {
  const { leftAlone, rightAlone } = expected;
  const met = expected.left !== null && leftAlone !== null ? less(expected.left, leftAlone) : null;
  const become = becomes(expected, keeps, one ? met : expected.met);
  const lines = [
    { words: `${left.rows} with ${withArticle(right.row)}`, rows: met, kept: keeps.met },
    { words: `${left.rows} without ${withArticle(right.row)}`, rows: leftAlone, kept: keeps.left },
    { words: `${right.rows} without ${withArticle(left.row)}`, rows: rightAlone, kept: keeps.right },
  ].filter(({ rows }) => rows !== null);
  if (lines.length === 0) return null;
  return (
    <div className="text-ink-soft" title="Expected by the source, not counted yet">
      <ol aria-label="Expected" className="border-t">
        {lines.map(({ words, rows, kept }) => (
          <li key={words} className="flex gap-3 border-b py-1">
            <span className="w-20 text-center">{kept ? 'keep' : 'leave out'}</span>
            <span className="min-w-0 flex-1">{words}</span>
            <span className="figures w-20 text-right">{about(rows ?? '')}</span>
            <span className="w-20" />
          </li>
        ))}
      </ol>
      {expected.left !== null && become !== null && (
        <p className="figures border-t-2 border-line py-1">
          {about(expected.left)} {left.rows} become {about(become)} rows
        </p>
      )}
    </div>
  );
}

const about = (rows: string) => `~\u202f${grouped(rows)}`;
/** Each is expected by itself, so that a part may be more than the whole. */
const less = (all: string, part: string) => (BigInt(part) > BigInt(all) ? '0' : String(BigInt(all) - BigInt(part)));

function becomes({ leftAlone, rightAlone }: ExpectedEvidence, keeps: Kept, met: string | null): string | null {
  const parts = [...(keeps.met ? [met] : []), ...(keeps.left ? [leftAlone] : []), ...(keeps.right ? [rightAlone] : [])];
  const known = parts.flatMap((each) => each ?? []);
  return known.length === parts.length ? total(known) : null;
}
