import { useState } from 'react';
import { resultStep } from '@cendra/core';
import { Button } from '../../ui/button';
import type { Bench } from '../use-bench';
import { BringIn } from './bring-in';

/** At the end of the dataset's sentence: more is brought in, to meet what is handed over. */
export function BringInHere({ bench }: { readonly bench: Bench }) {
  const [asking, setAsking] = useState(false);
  const after = resultStep(bench.trail);
  if (!after || after.blocked || bench.withoutValues) return null;
  return (
    <>
      <Button small kind="quiet" onClick={() => setAsking(true)}>
        Bring in …
      </Button>
      {asking && <BringIn bench={bench} after={after} onDone={() => setAsking(false)} />}
    </>
  );
}
