import { Input } from '@headlessui/react';
import { useState } from 'react';
import type { JoinField } from '@cendra/core';
import { calledInFront, fieldById, newPartnerFields, NOTHING_ARRIVES, typeWord } from '@cendra/core';
import { Button } from '../../ui/button';
import { RoleGlyph } from '../../ui/glyphs';
import { ProblemLine } from '../../ui/notice';
import { Tick } from '../../ui/tick';
import { mint } from '../mint';
import { PasteNames } from '../paste-names';
import { TextSlot } from '../slots';
import type { JoinProps } from './join-editor';

/** The fields of the other side: ticked, pasted, or all; each under a name of its own where it would clash. */
export function PartnerFields({ bench, join, problems, place, change, wide = false }: JoinProps & { readonly wide?: boolean }) {
  const { step, arriving, schema } = join;
  const { edit, withoutValues } = bench;
  const [left = NOTHING_ARRIVES, right = NOTHING_ARRIVES] = arriving;
  const [sought, setSought] = useState('');
  const [pasting, setPasting] = useState(false);
  const take = (to: readonly string[]) => change.set('taken', [...new Set(to)]);
  const shown = step.fields.filter(({ name }) => name.toLowerCase().includes(sought.trim().toLowerCase()));
  const repeated = new Set(join.checked.pairs.flatMap((each) => each.fields?.right ?? []));
  const fresh = newPartnerFields(mint, step, left, right, calledInFront(right));
  const all = () =>
    take([...step.taken, ...shown.filter((each) => !repeated.has(each.id) || step.taken.includes(each.id)).map((each) => each.id)]);
  return (
    <section aria-label="Fields of the partners" className={wide ? 'mt-2' : 'w-[21rem] shrink-0 border-l px-3 py-2'}>
      <p>
        Taking <span className="figures">{step.taken.length}</span> of <span className="figures">{step.fields.length}</span> fields of{' '}
        {step.role?.rows ?? right.grain.rows}
      </p>
      {!withoutValues && (
        <div className="mt-1 flex flex-wrap items-center gap-2">
          <Input
            aria-label="Part of a partner field’s name"
            placeholder="Part of a name"
            value={sought}
            onChange={(event) => setSought(event.target.value)}
            className="h-6 w-28 rounded border bg-paper px-2"
          />
          <Button small onClick={all}>
            {sought === '' ? 'Take all' : 'Take these'}
          </Button>
          <Button small disabled={step.taken.length === 0} onClick={() => take([])}>
            Take none
          </Button>
          <Button small aria-expanded={pasting} onClick={() => setPasting(!pasting)}>
            Paste names
          </Button>
        </div>
      )}
      {pasting && (
        <PasteNames
          none="No field is called"
          match={(name) => step.fields.find((each) => [each.name, originOf(each, join)].some((known) => known?.toLowerCase() === name))?.id}
          onTake={(ids) => take([...step.taken, ...ids])}
          onClose={() => setPasting(false)}
        />
      )}
      {fresh.length > 0 && !withoutValues && (
        <p className="mt-1 flex flex-wrap items-center gap-2 text-meta">
          {fresh.length} field{fresh.length === 1 ? '' : 's'} arrived since.
          <Button small onClick={() => change.set('fields', [...step.fields, ...fresh])}>
            Offer {fresh.length === 1 ? 'it' : 'them'}
          </Button>
        </p>
      )}
      <ul className="mt-1 border-t" aria-label="Partner fields">
        {shown.map((field) => {
          const taken = step.taken.includes(field.id);
          const known = fieldById(schema, field.id);
          const problem = problems.find(({ place, severity }) => place.field === field.id && severity === 'error');
          const origin = originOf(field, join);
          return (
            <li key={field.id} className="border-b py-0.5">
              <div className="flex h-6 items-center gap-2">
                <Tick
                  checked={taken}
                  label={`Take ${field.name}`}
                  disabled={withoutValues}
                  onChange={(on) => take(on ? [...step.taken, field.id] : step.taken.filter((each) => each !== field.id))}
                />
                {known && <RoleGlyph role={known.role} />}
                <TextSlot
                  label={`Name of ${origin ?? field.name} here`}
                  value={field.name}
                  placeholder="name"
                  wrong={problem !== undefined}
                  disabled={withoutValues}
                  onKeep={(to) => edit({ kind: 'rename field', step: place.step, field: field.id, from: field.name, to: to.trim() })}
                />
                <span className="ml-auto shrink-0 text-meta text-ink-soft">{known ? typeWord(known.type) : 'gone'}</span>
              </div>
              {origin !== undefined && origin !== field.name && <p className="pl-6 text-meta text-ink-soft">{origin} there</p>}
              {problem && (
                <div role="alert" className="pl-6">
                  <ProblemLine problem={problem} />
                </div>
              )}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

/** What a field is called on its own side. */
const originOf = ({ from }: JoinField, { arriving }: JoinProps['join']) => fieldById(arriving[1]?.schema ?? { fields: [] }, from)?.name;
