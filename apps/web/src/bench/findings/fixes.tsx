import type { Problem } from '@cendra/core';
import { fixesOf } from '@cendra/core';
import { Button } from '../../ui/button';
import type { Bench } from '../use-bench';

/** The ways to mend a finding, one press each. */
export function Fixes({ bench, problem }: { readonly bench: Bench; readonly problem: Problem }) {
  const { trail, catalogue, edit, withoutValues } = bench;
  const fixes = withoutValues ? [] : fixesOf(problem, trail, catalogue);
  if (fixes.length === 0) return null;
  return (
    <div className="flex flex-wrap gap-1 pl-5.5">
      {fixes.map(({ says, edits }) => (
        <Button key={says} small onClick={() => edit(...edits)}>
          {says}
        </Button>
      ))}
    </div>
  );
}
