import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions, DialogTitle } from '@headlessui/react';
import { useState } from 'react';
import type { CheckedStep, Partner, ReadTable } from '@cendra/core';
import { bringInEdits, sourcesOf, standingOn, subTrail, tableStep } from '@cendra/core';
import type { CatalogueTableDto } from '../../api';
import { api } from '../../api';
import type { Failure } from '../../api/problem';
import { failureOf } from '../../api/problem';
import { useAppDispatch } from '../../app/store';
import { tableWords, useFoundTables } from '../../sources/use-found-tables';
import { Button } from '../../ui/button';
import { FailureNotice } from '../../ui/notice';
import { mint } from '../mint';
import { ChoiceSlot, OPTION } from '../slots';
import type { ChoosingProps } from '../step-kind';
import { Overlay } from '../../ui/overlay';

type Offer =
  | { readonly kind: 'step'; readonly key: string; readonly checked: CheckedStep }
  | { readonly kind: 'table'; readonly key: string; readonly table: CatalogueTableDto };

const MOST_TABLES = 60;

/** Joins the selected step's rows with what is named. */
export function BringIn({ bench, after, onDone }: ChoosingProps) {
  const finish = (partner: Partner) => {
    const { edits, step } = bringInEdits(mint, bench.trail.definition, after.step.id, partner, bench.catalogue);
    bench.edit(...edits);
    bench.select(step);
  };
  return <PartnerDialog bench={bench} after={after} title={`Each ${after.grain.row || 'row'} meets …`} onChoose={finish} onDone={onDone} />;
}

interface PartnerDialogProps extends ChoosingProps {
  readonly title: string;
  /** No step is offered, but tables of any source. */
  readonly onlyTables?: boolean;
  readonly onChoose: (partner: Partner, described?: ReadTable) => void;
}

/** What to bring in, found by part of its name: a table of the source, or a step that is on the trail already. */
export function PartnerDialog({ bench, after, title, onlyTables = false, onChoose, onDone }: PartnerDialogProps) {
  const { trail } = bench;
  const finish = (partner: Partner, described?: ReadTable) => {
    // The dialog gives the focus back as it closes; what comes of the choice may take it only then.
    if (!onlyTables) onDone();
    requestAnimationFrame(() => requestAnimationFrame(() => onChoose(partner, described)));
  };
  const dispatch = useAppDispatch();
  const [typed, setTyped] = useState('');
  const [failure, setFailure] = useState<Failure>();
  const [own = ''] = sourcesOf({ steps: subTrail(trail.definition, after.step.id) });
  const [source, setSource] = useState(own);
  const sources = api.useSourcesListQuery().data ?? [];
  const name = sources.find((each) => each.id === source)?.name ?? 'the source';
  const found = useFoundTables(source, typed, MOST_TABLES);
  const sought = typed.trim().toLowerCase();
  // What stands on the selected step may meet it too; only the step itself is offered for meeting itself.
  const steps = trail.steps.filter((each) => !each.blocked && each.title.toLowerCase().includes(sought));
  const offers: readonly Offer[] = [
    ...found.tables.map((table): Offer => ({ kind: 'table', key: `${table.schema}.${table.name}`, table })),
    ...(onlyTables ? [] : steps).map((checked): Offer => ({ kind: 'step', key: checked.step.id, checked })),
  ];
  const choose = async (offer: Offer | null) => {
    if (!offer) return;
    if (offer.kind === 'step') {
      finish({ step: offer.checked.step.id });
      return;
    }
    const { schema, name: table } = offer.table;
    const described = await dispatch(api.endpoints.sourcesDescribe.initiate({ id: source, schema, table }, { subscribe: false }));
    const read = described.data as unknown as ReadTable | undefined;
    if (read) finish({ table: tableStep(mint, source, read) }, read);
    else setFailure(failureOf(described.error));
  };
  const onTrail = new Set(standingOn(trail.definition, after.step.id).map((each) => each.id));
  return (
    <Overlay place="top" look="flex w-[34rem] max-w-full flex-col" onClose={onDone}>
      <DialogTitle className="border-b px-3 py-2 font-medium">{title}</DialogTitle>
      {sources.length > 1 &&
        (onlyTables ? (
          <p className="flex items-center gap-1 px-3 pt-2">
            a table of
            <ChoiceSlot
              label="Source of the table"
              value={name}
              choices={sources.map((each) => each.name)}
              onChange={(to) => setSource(sources.find((each) => each.name === to)?.id ?? source)}
            />
          </p>
        ) : (
          <p className="px-3 pt-2 text-meta text-ink-soft">Tables of {name}. Other sources may not meet it in one dataset yet.</p>
        ))}
      <Combobox value={null} onChange={(offer: Offer | null) => void choose(offer)} immediate>
        <div className="border-b px-3 py-2">
          <ComboboxInput
            autoFocus
            aria-label="What to bring in"
            placeholder="part of the name of a table or step"
            onChange={(event) => setTyped(event.target.value)}
            className="h-8 w-full rounded border bg-paper px-2"
          />
        </div>
        <ComboboxOptions static modal={false} className="min-h-24 flex-1 overflow-auto py-1">
          {offers.map((offer) => (
            <ComboboxOption key={offer.key} value={offer} className={OPTION}>
              {offer.kind === 'table' ? (
                <>
                  <span className="truncate">{offer.table.name}</span>
                  <span className="ml-auto shrink-0 text-meta text-ink-soft">{tableWords(offer.table, ` of ${name}`)}</span>
                </>
              ) : (
                <>
                  <span className="truncate">{offer.checked.title}</span>
                  <span className="ml-auto shrink-0 text-meta text-ink-soft">
                    {offer.checked === after
                      ? 'meets itself'
                      : onTrail.has(offer.checked.step.id)
                        ? 'stands behind the selected step'
                        : 'on the trail'}
                  </span>
                </>
              )}
            </ComboboxOption>
          ))}
        </ComboboxOptions>
      </Combobox>
      {offers.length === 0 && !found.asking && <p className="px-3 pb-2 text-ink-soft">Nothing here has that in its name.</p>}
      <FailureNotice failure={failure ?? found.failure} />
      <div className="flex justify-end border-t px-3 py-2">
        <Button small onClick={onDone}>
          Leave it
        </Button>
      </div>
    </Overlay>
  );
}
