import { WORDS } from './words';

export type { Cell } from '@cendra/core';

/** Text with its leading and trailing blanks as faint dots, empty text as a faint `''`, null ruled off. */
export function CellText({ text }: { readonly text: string | null }) {
  if (text === null) {
    return (
      <span title={WORDS['ruled through']} className="ruled-off block h-full min-h-4 w-full">
        <span className="sr-only">null</span>
      </span>
    );
  }
  if (text === '') return <span className="text-ink-faint">''</span>;
  const body = text.trim();
  if (body.length === text.length) return <>{text.replaceAll('\n', ' ⏎ ')}</>;
  const start = text.length - text.trimStart().length;
  const end = text.length - text.trimEnd().length;
  const dots = (count: number) => (
    <span className="text-ink-faint">
      <span aria-hidden>{'·'.repeat(Math.min(count, 20))}</span>
      <span className="sr-only">{count} blanks</span>
    </span>
  );
  if (body === '') return dots(text.length);
  return (
    <>
      {start > 0 && dots(start)}
      {body.replaceAll('\n', ' ⏎ ')}
      {end > 0 && dots(end)}
    </>
  );
}
