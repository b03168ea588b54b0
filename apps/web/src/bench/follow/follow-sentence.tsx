import { useState } from 'react';
import type { Field } from '@cendra/core';
import { fieldById, knownBy } from '@cendra/core';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';
import { FailureNotice } from '../../ui/notice';
import { FieldSlot } from '../field-slot';
import type { Bench } from '../use-bench';
import { ValueSlot } from '../values/value-slot';
import type { Following } from './use-follow';
import { originOf } from './use-follow';

/** Under the trail: which row is followed, as a sentence, and how it stands at its source. */
export function FollowSentence({ bench, following }: { readonly bench: Bench; readonly following: Following }) {
  const { identity, others, followed, waiting, failure, follow, stop } = following;
  const [open, setOpen] = useState(false);
  const [source] = followed?.source.rows ?? [];
  if (bench.withoutValues) return null;
  if (!identity)
    return (
      <div className="border-t px-2 py-1.5">
        {open ? (
          <FollowBy bench={bench} following={following} onDone={() => setOpen(false)} />
        ) : (
          <Button small kind="quiet" onClick={() => setOpen(true)}>
            Follow a row …
          </Button>
        )}
      </div>
    );
  return (
    <section aria-label="Followed row" className="max-h-48 shrink-0 overflow-auto border-t px-2 py-1.5">
      <div className="flex items-center justify-between">
        <h3 className="font-medium">
          {followed && followed.source.rows.length > 1 ? `${grouped(followed.steps[0]?.present ?? 0)} rows followed` : 'Followed row'}
        </h3>
        <Button small kind="quiet" onClick={stop}>
          Stop following
        </Button>
      </div>
      {others.map((each) => (
        <Button key={each.title} small kind="quiet" onClick={() => follow(each.identity)}>
          Its row in {each.title}
        </Button>
      ))}
      {waiting && <p className="text-meta text-ink-soft">Looking …</p>}
      <FailureNotice failure={failure} />
      {followed && !source && <p className="text-amber">There is no such row at the source.</p>}
      {followed?.steps
        .filter(({ present, arrived, values }) => present > arrived && values.length > 1)
        .map(({ step, values }) => (
          <details key={step} className="text-meta">
            <summary>The {values.length} rows it became</summary>
            <ol>
              {values.map((row, at) => (
                <li key={at}>{row.map(({ name, value }) => `${name} ${value ?? 'null'}`).join(', ')}</li>
              ))}
            </ol>
          </details>
        ))}
      {followed && source && (
        <dl className="grid grid-cols-[auto_1fr] gap-x-2 text-meta" aria-label="The row at its source">
          {followed.source.names.map((name, index) => (
            <div key={index} className="contents">
              <dt className="text-ink-soft">{name}</dt>
              <dd className="figures truncate">{source[index] ?? <span className="text-ink-faint">null</span>}</dd>
            </div>
          ))}
        </dl>
      )}
    </section>
  );
}

function FollowBy({ bench, following, onDone }: { readonly bench: Bench; readonly following: Following; readonly onDone: () => void }) {
  const { trail } = bench;
  const origin = originOf(trail, bench.selected?.step.id);
  const schema = origin?.schema ?? { fields: [] };
  const [known] = origin ? knownBy(origin.grain, schema) : [];
  const [field, setField] = useState<Field | undefined>(known === undefined ? schema.fields[0] : fieldById(schema, known));
  return (
    <p className="flex flex-wrap items-center gap-1">
      Follow the row whose
      <FieldSlot label="Field the row is known by" schema={schema} field={field} missing={false} disabled={false} onField={setField} />
      is
      <ValueSlot
        bench={bench}
        label="Value the row is known by"
        value=""
        placeholder="value"
        offered={undefined}
        autoFocus
        adding
        onKeep={(value) => {
          if (field && value !== '') following.follow([{ field: field.id, value }]);
          onDone();
        }}
      />
      <Button small kind="quiet" onClick={onDone}>
        Leave it
      </Button>
    </p>
  );
}
