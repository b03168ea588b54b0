import { useEffect, useState } from 'react';

/** Says that something takes its time, but only after 300 ms: shorter waits need no words. */
export function Waiting({ what, onStop }: { readonly what: string; readonly onStop?: () => void }) {
  const late = useLate(true);
  return (
    <div role="status" aria-live="polite" className="min-h-6">
      {late && (
        <span className="inline-flex items-center gap-2 text-ink-soft">
          <span className="waiting-bar h-0.5 w-16" aria-hidden />
          {what}
          {onStop && (
            <button type="button" className="underline underline-offset-2" onClick={onStop}>
              Stop
            </button>
          )}
        </span>
      )}
    </div>
  );
}

/** True once `busy` has lasted 300 ms. */
export function useLate(busy: boolean): boolean {
  const [late, setLate] = useState(false);
  useEffect(() => {
    if (!busy) return undefined;
    const timer = setTimeout(() => setLate(true), 300);
    return () => {
      clearTimeout(timer);
      setLate(false);
    };
  }, [busy]);
  return late && busy;
}
