import { X } from 'lucide-react';
import type { BriefItem, Edit } from '@cendra/core';
import { BRIEF_KINDS, placeAtEnd, placeOf } from '@cendra/core';
import { Button } from '../../ui/button';
import { LongText } from '../../ui/long-text';
import { Tick } from '../../ui/tick';
import { mint } from '../mint';
import { TextSlot } from '../slots';
import type { Bench } from '../use-bench';

const HEADS = { rows: 'Wanted rows', field: 'Wanted fields', figure: 'Figures to agree with' } as const;
const ADD = { rows: 'Add wanted rows', field: 'Add a wanted field', figure: 'Add a figure' } as const;
const SAMPLE = {
  rows: 'which rows, such as one per harvest',
  field: 'a field, such as net kilos',
  figure: 'what it is, such as kilos of 2024',
} as const;

/** What was asked for, kept with the dataset, and ticked off by hand as it is met. */
export default function BriefDrawer({ bench }: { readonly bench: Bench }) {
  const { brief } = bench.bench.definition;
  const { edit, withoutValues: locked } = bench;
  const met = brief.items.filter((each) => each.met).length;
  const add = (kind: BriefItem['kind']) =>
    edit({ kind: 'add wish', item: { id: mint(), kind, text: '', figure: '', met: false }, at: placeAtEnd(brief.items) });
  return (
    <div className="space-y-3 px-3 py-2">
      <div>
        <h3 className="font-medium">The request</h3>
        <LongText
          label="The request"
          value={brief.request}
          placeholder="What was asked for, in the words it was asked in"
          rows={5}
          most={10_000}
          disabled={locked}
          onKeep={(to) => edit({ kind: 'set request', from: brief.request, to })}
        />
      </div>
      {brief.items.length > 0 && (
        <p className="figures text-ink-soft">
          {met} of {brief.items.length} met
        </p>
      )}
      {BRIEF_KINDS.map((kind) => (
        <section key={kind} aria-label={HEADS[kind]}>
          <h3 className="font-medium">{HEADS[kind]}</h3>
          <ul>
            {brief.items.map(
              (item) => item.kind === kind && <Wish key={item.id} item={item} items={brief.items} locked={locked} edit={edit} />,
            )}
          </ul>
          {!locked && (
            <Button small kind="quiet" onClick={() => add(kind)}>
              {ADD[kind]}
            </Button>
          )}
        </section>
      ))}
    </div>
  );
}

interface WishProps {
  readonly item: BriefItem;
  readonly items: readonly BriefItem[];
  readonly locked: boolean;
  readonly edit: (...edits: Edit[]) => void;
}

function Wish({ item, items, locked, edit }: WishProps) {
  const set = (to: Partial<BriefItem>) => edit({ kind: 'set wish', from: item, to: { ...item, ...to } });
  return (
    <li className="flex items-start gap-2 border-b py-1">
      <span className="pt-1">
        <Tick checked={item.met} label={`Met: ${item.text || 'nothing written yet'}`} disabled={locked} onChange={(met) => set({ met })} />
      </span>
      <span className="min-w-0 flex-1 space-y-1">
        <TextSlot
          label="What is wanted"
          value={item.text}
          placeholder={SAMPLE[item.kind]}
          autoFocus={item.text === ''}
          disabled={locked}
          onKeep={(text) => set({ text })}
        />
        {item.kind === 'figure' && (
          <TextSlot
            label="The figure"
            value={item.figure}
            placeholder="the number"
            look="figures"
            disabled={locked}
            onKeep={(figure) => set({ figure })}
          />
        )}
      </span>
      {!locked && (
        <button
          type="button"
          aria-label={`Take ${item.text || 'this'} out of the brief`}
          onClick={() => edit({ kind: 'remove wish', item, at: placeOf(items, item.id) })}
          className="pt-1 text-ink-faint hover:text-ink"
        >
          <X size={16} strokeWidth={1.75} aria-hidden />
        </button>
      )}
    </li>
  );
}
