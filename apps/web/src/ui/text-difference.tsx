import { diffLines } from 'diff';
import { useMemo } from 'react';

interface TextDifferenceProps {
  readonly label: string;
  readonly from: string;
  readonly to: string;
}

/** Lines that are shown around a change; more of what is alike is only counted. */
const AROUND = 3;

interface Line {
  readonly text: string;
  readonly is: 'alike' | 'gone' | 'new';
}

const SIGN = { alike: ' ', gone: '−', new: '+' };
const WORD = { alike: '', gone: 'gone: ', new: 'new: ' };
const LOOK = { alike: 'text-ink-soft', gone: 'bg-panel text-rust', new: 'bg-panel text-moss' };

/** What differs between two texts, line by line, with a few lines around it. */
export function TextDifference({ label, from, to }: TextDifferenceProps) {
  const lines = useMemo(() => linesOf(from, to), [from, to]);
  const shown = useMemo(() => nearChanges(lines), [lines]);
  if (lines.every((each) => each.is === 'alike')) return <p className="text-ink-soft">They are the same, word for word.</p>;
  return (
    <ol aria-label={label} className="overflow-auto border bg-paper py-1 font-mono text-meta">
      {shown.map((each, at) =>
        'skipped' in each ? (
          <li key={at} className="px-2 text-ink-faint">
            … {each.skipped} lines alike
          </li>
        ) : (
          <li key={at} className={`flex gap-2 px-2 ${LOOK[each.is]}`}>
            <span aria-hidden className="w-2 shrink-0 select-none">
              {SIGN[each.is]}
            </span>
            <span className="whitespace-pre-wrap">
              <span className="sr-only">{WORD[each.is]}</span>
              {each.text === '' ? '\u00a0' : each.text}
            </span>
          </li>
        ),
      )}
    </ol>
  );
}

const withEnd = (text: string) => (text.endsWith('\n') ? text : `${text}\n`);

function linesOf(from: string, to: string): readonly Line[] {
  return diffLines(withEnd(from), withEnd(to)).flatMap(({ value, added, removed }) =>
    value
      .replace(/\n$/, '')
      .split('\n')
      .map((text): Line => ({ text, is: added ? 'new' : removed ? 'gone' : 'alike' })),
  );
}

type Shown = Line | { readonly skipped: number };

function nearChanges(lines: readonly Line[]): readonly Shown[] {
  const near = lines.map((_line, at) => lines.slice(Math.max(0, at - AROUND), at + AROUND + 1).some((each) => each.is !== 'alike'));
  const shown: Shown[] = [];
  let skipped = 0;
  lines.forEach((line, at) => {
    if (!near[at]) return void skipped++;
    if (skipped > 0) shown.push({ skipped });
    skipped = 0;
    shown.push(line);
  });
  return skipped > 0 ? [...shown, { skipped }] : shown;
}
