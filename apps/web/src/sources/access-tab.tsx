import { Field, Label } from '@headlessui/react';
import { Tick } from '../ui/tick';
import type { SourceDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { KeepingForm } from '../kept-routines/keeping-form';
import { FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';

/** Who may use the source. Taking it away works at once, also on rows already read. */
export function AccessTab({ source }: { readonly source: SourceDto }) {
  const people = api.usePeopleListQuery();
  const access = api.useSourcesAccessQuery({ id: source.id });
  const [give, giving] = api.useSourcesGiveMutation();
  if (!people.data || !access.data)
    return (
      <div className="p-4">
        {people.error || access.error ? (
          <FailureNotice failure={failureOf(people.error ?? access.error)} />
        ) : (
          <Waiting what="Reading who may use it" />
        )}
      </div>
    );
  const held = access.data.people;
  const change = (person: string, has: boolean) =>
    void give({ id: source.id, sourceAccessDto: { people: has ? [...held, person] : held.filter((each) => each !== person) } });
  return (
    <section className="max-w-xl p-4" aria-label="Who may use this source">
      <p className="text-ink-soft">Analysts with a tick use this source. Stewards always do.</p>
      <ul className="mt-3 border-t">
        {people.data
          .filter((each) => each.role === 'analyst')
          .map(({ id, shownName, name }) => (
            <li key={id} className="border-b py-1.5">
              <Field className="flex items-center gap-2">
                <Tick checked={held.includes(id)} onChange={(has) => change(id, has)} />
                <Label>
                  {shownName} <span className="text-ink-soft">{name}</span>
                </Label>
              </Field>
            </li>
          ))}
      </ul>
      <FailureNotice failure={failureOf(giving.error)} />
      <KeepingForm source={source} analysts={people.data.filter((each) => each.role === 'analyst')} />
    </section>
  );
}
