import { lazy, Suspense, useState } from 'react';
import type { TextStep } from '@cendra/core';
import { api } from '../api';
import type { Bench } from '../bench/use-bench';
import { Button } from '../ui/button';

const KeepAsFunction = lazy(() => import('./keep-as-function'));

/** Keeps a text as a function of its source; not there for who may not. */
export function KeepButton({ bench, step }: { readonly bench: Bench; readonly step: TextStep }) {
  const keeping = api.useKeepingShownQuery({ id: step.source });
  const [open, setOpen] = useState(false);
  const { may, schema } = keeping.data ?? { may: false, schema: null };
  if (!may || schema === null || bench.withoutValues) return null;
  return (
    <>
      <Button small disabled={step.fields.length === 0} onClick={() => setOpen(true)}>
        Keep as a function …
      </Button>
      {open && (
        <Suspense fallback={null}>
          <KeepAsFunction bench={bench} step={step} schema={schema} onClose={() => setOpen(false)} />
        </Suspense>
      )}
    </>
  );
}
