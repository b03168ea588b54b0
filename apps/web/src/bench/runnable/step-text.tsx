import { useMemo, useState } from 'react';
import type { CheckedStep, RunnableText } from '@cendra/core';
import { runnableTexts } from '@cendra/core';
import { Button } from '../../ui/button';
import { keepFile } from '../../ui/keep-file';
import { toClipboard } from '../rows/copy';
import type { Bench } from '../use-bench';
import { formatted } from './formatted';
import type { PlanShown } from './use-plan';
import { dialectsOf, siteName, usePlan } from './use-plan';

/** What a step comes to as texts of SQL that run by hand, one a place, each to be copied or taken away. */
export default function StepText({ bench, checked }: { readonly bench: Bench; readonly checked: CheckedStep }) {
  const shown = usePlan(bench, checked);
  const texts = useMemo(() => (shown ? textsOf(bench, checked, shown) : []), [bench, checked, shown]);
  if (!shown)
    return <p className="text-ink-soft">There is none before the step is without errors, has a field, and its values are filled.</p>;
  const { title } = bench.trail.definition;
  const name = checked.step.id === bench.trail.definition.result ? title : `${title}, ${checked.title}`;
  return (
    <div className="space-y-2">
      {texts.map((each, at) => (
        <TextOfPlace
          key={each.result}
          text={each.text}
          where={texts.length > 1 ? siteName(shown, each.site) : undefined}
          fileName={`${texts.length > 1 ? `${name}, ${at + 1} of ${texts.length}` : name}.sql`}
        />
      ))}
    </div>
  );
}

function textsOf(bench: Bench, { step }: CheckedStep, shown: PlanShown): readonly RunnableText[] {
  const texts = runnableTexts(bench.trail, step.id, shown.plan, shown.binding, dialectsOf(shown.kindOf), (site) => siteName(shown, site));
  return texts.map((each) => ({ ...each, text: formatted(each.text, each.site.kind === 'combine' ? 'duckdb' : 'postgresql') }));
}

interface TextOfPlaceProps {
  readonly text: string;
  /** Said where there are several. */
  readonly where: string | undefined;
  readonly fileName: string;
}

function TextOfPlace({ text, where, fileName }: TextOfPlaceProps) {
  const [said, setSaid] = useState('');
  const copy = () =>
    toClipboard(text).then(
      () => setSaid('Copied.'),
      () => setSaid('The browser did not let it onto the clipboard.'),
    );
  return (
    <section aria-label={where ? `SQL in ${where}` : 'SQL'}>
      <div className="flex flex-wrap items-center gap-2 pb-1">
        {where && <span className="text-meta text-ink-soft">In {where}</span>}
        <Button small onClick={() => void copy()}>
          Copy
        </Button>
        <Button small onClick={() => keepFile(new Blob([text, '\n'], { type: 'application/sql' }), fileName)}>
          Take away as .sql
        </Button>
        <span role="status" className="text-meta text-ink-soft">
          {said}
        </span>
      </div>
      <pre tabIndex={0} aria-label="Statement" className="overflow-auto border bg-panel p-2 font-mono text-meta whitespace-pre-wrap">
        {text}
      </pre>
    </section>
  );
}
