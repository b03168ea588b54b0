import { useMemo } from 'react';
import type { SheetField } from '@cendra/core';
import { reportFields } from '@cendra/core';
import { WithDrawers } from '../bench/drawers';
import { SentenceBar } from '../bench/sentence-bar';
import { useBench } from '../bench/use-bench';
import { EmptyState } from '../ui/notice';
import { AboutLine } from './about-line';
import { FieldCard } from './field-card';
import { FieldLines } from './field-lines';
import { useAddress } from '../ui/address';

/** The field sheet: what the dataset hands over, field by field, and what the dataset itself is. */
export function FieldsPage() {
  const bench = useBench();
  const { trail } = bench;
  const fields = useMemo(() => reportFields(trail), [trail]);
  const [search, writeAddress] = useAddress();
  const chosen = search.get('field');
  const setChosen = (field: string) => writeAddress((parameters) => parameters.set('field', field));
  const field: SheetField | undefined = fields.find((each) => each.id === chosen) ?? fields.find((each) => !each.forUseOnly) ?? fields[0];
  return (
    <main className="flex h-full flex-col">
      <SentenceBar bench={bench} />
      <WithDrawers bench={bench} run={undefined}>
        <div className="flex min-w-0 flex-1">
          <div className="@container min-w-0 flex-1 overflow-auto" tabIndex={-1}>
            <AboutLine bench={bench} />
            {fields.length === 0 ? (
              <EmptyState>No field yet. Take fields in the table step on the bench.</EmptyState>
            ) : (
              <FieldLines bench={bench} fields={fields} chosen={field?.id} onChoose={setChosen} />
            )}
          </div>
          {field && (
            <section aria-label={`Field ${field.name}`} className="w-88 shrink-0 overflow-auto border-l px-4 py-3">
              <FieldCard key={field.id} bench={bench} field={field} fields={fields} />
            </section>
          )}
        </div>
      </WithDrawers>
    </main>
  );
}
