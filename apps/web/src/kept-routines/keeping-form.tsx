import { Field, Label } from '@headlessui/react';
import { useState } from 'react';
import type { KeepingDto, PersonDto, SourceDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { Button } from '../ui/button';
import { FailureNotice } from '../ui/notice';
import { Tick } from '../ui/tick';

interface KeepingFormProps {
  readonly source: SourceDto;
  readonly analysts: readonly PersonDto[];
}

/** Who may keep texts as functions of the source, by which sign-in and in which schema. Nobody, unless it is said here. */
export function KeepingForm({ source, analysts }: KeepingFormProps) {
  const { data } = api.useKeepingShownQuery({ id: source.id });
  if (!data) return null;
  return <Form key={JSON.stringify(data)} source={source} analysts={analysts} keeping={data} />;
}

function Form({ source, analysts, keeping }: KeepingFormProps & { readonly keeping: KeepingDto }) {
  const [user, setUser] = useState(keeping.user ?? '');
  const [schema, setSchema] = useState(keeping.schema ?? '');
  const [secret, setSecret] = useState('');
  const [people, setPeople] = useState<readonly string[]>(keeping.people);
  const [change, changing] = api.useKeepingChangeMutation();
  const [end, ending] = api.useKeepingEndMutation();
  const text = (
    label: string,
    value: string,
    set: (to: string) => void,
    more: { readonly type?: 'password'; readonly placeholder?: string } = {},
  ) => (
    <label className="block">
      <span className="block text-meta text-ink-soft">{label}</span>
      <input
        value={value}
        maxLength={more.type ? 1_000 : 63}
        type={more.type ?? 'text'}
        autoComplete={more.type ? 'new-password' : 'off'}
        placeholder={more.placeholder ?? ''}
        onChange={(event) => set(event.target.value)}
        className="h-8 w-44 rounded border bg-paper px-2"
      />
    </label>
  );
  return (
    <section className="mt-8" aria-label="Who may keep functions in this source">
      <h3 className="font-medium">Keeping functions</h3>
      <p className="text-ink-soft">
        Analysts with a tick may keep a text or script as a function there, by a user of its own that is not the one that reads.
      </p>
      <form
        className="mt-2"
        onSubmit={(event) => {
          event.preventDefault();
          void change({ id: source.id, changedKeepingDto: { user, schema, people: [...people], ...(secret === '' ? {} : { secret }) } });
        }}
      >
        <div className="flex flex-wrap gap-3">
          {text('User that makes them', user, setUser)}
          {text('Its password', secret, setSecret, { type: 'password', placeholder: keeping.user === null ? '' : 'as it is' })}
          {text('In the schema', schema, setSchema)}
        </div>
        <ul className="mt-3 border-t">
          {analysts.map(({ id, shownName, name }) => (
            <li key={id} className="border-b py-1.5">
              <Field className="flex items-center gap-2">
                <Tick
                  checked={people.includes(id)}
                  onChange={(may) => setPeople(may ? [...people, id] : people.filter((each) => each !== id))}
                />
                <Label>
                  {shownName} <span className="text-ink-soft">{name} may keep functions</span>
                </Label>
              </Field>
            </li>
          ))}
        </ul>
        <div className="mt-2 flex gap-2">
          <Button type="submit" small kind="primary" disabled={changing.isLoading || user === '' || schema === ''}>
            Say so
          </Button>
          {keeping.user !== null && (
            <Button small disabled={ending.isLoading} onClick={() => void end({ id: source.id })}>
              Nobody keeps functions here
            </Button>
          )}
        </div>
      </form>
      <FailureNotice failure={failureOf(changing.error ?? ending.error)} />
    </section>
  );
}
