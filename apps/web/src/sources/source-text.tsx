import { useState } from 'react';
import type { Failure } from '../api/problem';
import { toClipboard } from '../bench/rows/copy';
import { Button } from '../ui/button';
import { FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';

interface SourceTextProps {
  readonly of: string;
  readonly text: string | undefined;
  readonly failure: Failure | undefined;
  /** What can be done with it besides copying. */
  readonly children?: React.ReactNode;
}

/** How a view or a routine is written, as its source has it. */
export function SourceText({ of, text, failure, children }: SourceTextProps) {
  const [said, setSaid] = useState('');
  return (
    <section aria-label={`Text of ${of}`}>
      <div className="flex items-center gap-2 pb-1">
        <h3 className="font-medium">Its text</h3>
        {text !== undefined && (
          <Button
            small
            onClick={() =>
              void toClipboard(text).then(
                () => setSaid('Copied.'),
                () => setSaid('The browser did not let it onto the clipboard.'),
              )
            }
          >
            Copy
          </Button>
        )}
        {children}
        <span role="status" className="text-meta text-ink-soft">
          {said}
        </span>
      </div>
      {text === undefined ? (
        failure ? (
          <FailureNotice failure={failure} />
        ) : (
          <Waiting what="Asking the source" />
        )
      ) : (
        <pre
          tabIndex={0}
          aria-label={`How ${of} is written`}
          className="max-h-96 overflow-auto border bg-panel p-2 font-mono text-meta whitespace-pre-wrap"
        >
          {text}
        </pre>
      )}
    </section>
  );
}
