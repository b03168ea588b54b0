import { useState } from 'react';
import { leadsToUnion, sameCriteriaEdits } from '@cendra/core';
import { Button } from '../../ui/button';
import { mint } from '../mint';
import type { Bench } from '../use-bench';

/** Criteria of one input of a union, written for the others too: with their parameters, or with new ones. */
export function SameCriteria({ bench, step }: { readonly bench: Bench; readonly step: string }) {
  const [said, setSaid] = useState('');
  const union = leadsToUnion(bench.trail, step);
  if (!union || union.inputs.filter((each) => each !== null).length < 2) return null;
  const take = (parameters: 'its own' | 'new') => {
    const made = sameCriteriaEdits(mint, bench.trail, step, parameters);
    if (!made) return;
    if (made.edits.length > 0) bench.edit(...made.edits);
    const left = made.leftOut.map(({ rows, clauses }) => `${clauses} of the clauses ask about nothing that ${rows} have`);
    setSaid(left.length > 0 ? `Left out: ${left.join('; ')}.` : 'Written for every other input.');
  };
  return (
    <p className="mt-2 flex flex-wrap items-center gap-2">
      The same for the other inputs of the union:
      <Button small onClick={() => take('its own')}>
        with the same parameters
      </Button>
      <Button small onClick={() => take('new')}>
        with new ones
      </Button>
      <span role="status" className="text-meta text-ink-soft">
        {said}
      </span>
    </p>
  );
}
