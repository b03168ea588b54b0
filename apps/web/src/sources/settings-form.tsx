import { Field, Input, Label, Select } from '@headlessui/react';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import type { NewSourceDto, SourceDto, TestAnswerDto } from '../api';
import { api } from '../api';
import type { Failure } from '../api/problem';
import { failureOf } from '../api/problem';
import { Button } from '../ui/button';
import { FailureNotice, ProblemLine } from '../ui/notice';
import type { Entered, SettingEntry } from './kinds';
import { SOURCE_KINDS, sourceKind } from './kinds';
import { TestLine } from './test-line';

interface Values {
  readonly name: string;
  readonly mark: string;
  readonly kind: string;
  readonly settings: Entered;
  readonly secret: string;
}

interface SettingsFormProps {
  readonly source?: SourceDto;
  readonly onDone: (source: SourceDto) => void;
  readonly onLeave: () => void;
}

/** Adds or changes a source. A test speaks of the settings it was made with; a changed one makes it stale. */
export function SettingsForm({ source, onDone, onLeave }: SettingsFormProps) {
  const { register, handleSubmit, watch, getValues, setValue } = useForm<Values>({ defaultValues: storedIn(source) });
  const [add] = api.useSourcesAddMutation();
  const [change] = api.useSourcesChangeMutation();
  const [tryOut, trying] = api.useSourcesTryMutation();
  const [failure, setFailure] = useState<Failure>();
  const [tested, setTested] = useState<{ readonly answer: TestAnswerDto; readonly of: string }>();
  const now = settingsKey(watch());
  const [first] = SOURCE_KINDS;
  const kind = sourceKind(watch('kind')) ?? first;
  const settingsIn = ({ settings }: Values) => kind.settings(settings) as NewSourceDto['settings'];

  const test = async () => {
    setFailure(undefined);
    const values = getValues();
    const { secret } = values;
    const answer = await tryOut({
      testSourceDto: {
        kind: values.kind as NewSourceDto['kind'],
        settings: settingsIn(values),
        ...(secret === '' ? {} : { secret }),
        ...(source ? { source: source.id } : {}),
      },
    });
    if (answer.data) setTested({ answer: answer.data, of: settingsKey(values) });
    else setFailure(failureOf(answer.error));
  };
  const keep = async (values: Values) => {
    const { name, mark, secret } = values;
    const settings = settingsIn(values);
    const answer = source
      ? await change({ id: source.id, changedSourceDto: { name, mark, settings, ...(secret === '' ? {} : { secret }) } })
      : await add({ newSourceDto: { name, mark, kind: values.kind as NewSourceDto['kind'], settings, secret } });
    if (answer.data) onDone(answer.data);
    else setFailure(failureOf(answer.error));
  };
  const atPointer = (pointer: string) =>
    failure?.problems.find((each) => each.place.pointer === pointer) ??
    (tested && !tested.answer.ok && tested.of === now && tested.answer.problem?.place.pointer === pointer
      ? tested.answer.problem
      : undefined);
  const input = (name: 'name' | 'mark' | 'secret' | `settings.${string}`, label: string, rest: object = {}) => (
    <Entry key={name} label={label} problem={atPointer(pointerOf(name))}>
      <Input {...register(name)} {...rest} className={INPUT} />
    </Entry>
  );
  const setting = ({ name, label, options, input: rest }: SettingEntry) =>
    options ? (
      <Entry key={name} label={label} problem={atPointer(`/settings/${name}`)}>
        <Select {...register(`settings.${name}`)} className={INPUT}>
          {options.map(([value, words]) => (
            <option key={value} value={value}>
              {words}
            </option>
          ))}
        </Select>
      </Entry>
    ) : (
      input(`settings.${name}`, label, rest)
    );
  const pointers = ['/name', '/mark', '/secret', ...kind.entries.map((each) => `/settings/${each.name}`)];
  const elsewhere = failure && {
    ...failure,
    problems: failure.problems.filter((each) => !pointers.some((pointer) => each.place.pointer === pointer)),
  };
  return (
    <form onSubmit={handleSubmit(keep)} className="max-w-xl space-y-1" aria-label={source ? `Settings of ${source.name}` : 'A new source'}>
      {input('name', 'Name', { required: true })}
      {input('mark', 'Two-letter mark', { required: true, maxLength: 2 })}
      {!source && SOURCE_KINDS.length > 1 && (
        <Entry label="Kind">
          <Select
            {...register('kind', { onChange: ({ target }) => setValue('settings', sourceKind(target.value as string)?.begins ?? {}) })}
            className={INPUT}
          >
            {SOURCE_KINDS.map((each) => (
              <option key={each.kind} value={each.kind}>
                {each.word}
              </option>
            ))}
          </Select>
        </Entry>
      )}
      {kind.entries.map(setting)}
      {input('secret', kind.secretWord, { type: 'password', autoComplete: 'new-password', placeholder: source ? 'unchanged' : '' })}
      <div className="space-y-2 py-2">
        {tested && (
          <TestLine
            answer={tested.answer}
            stale={tested.of !== now}
            placed={pointers.some((pointer) => atPointer(pointer) === tested.answer.problem)}
          />
        )}
        <FailureNotice failure={elsewhere && elsewhere.problems.length > 0 ? elsewhere : undefined} />
      </div>
      <div className="flex gap-2">
        <Button onClick={() => void test()} disabled={trying.isLoading}>
          {trying.isLoading ? 'Testing …' : 'Test'}
        </Button>
        <Button type="submit" kind="primary">
          {source ? 'Keep changes' : 'Add source'}
        </Button>
        <Button kind="quiet" onClick={onLeave}>
          Cancel
        </Button>
      </div>
    </form>
  );
}

const INPUT = 'h-8 w-full rounded border bg-paper px-2';

function storedIn(source: SourceDto | undefined): Values {
  const [first] = SOURCE_KINDS;
  const kind = (source && sourceKind(source.kind)) ?? first;
  const { name = '', mark = '', settings } = source ?? {};
  return { name, mark, kind: kind.kind, settings: settings ? kind.entered(settings) : kind.begins, secret: '' };
}

const pointerOf = (name: string) => `/${name.replaceAll('.', '/')}`;

const settingsKey = ({ kind, settings, secret }: Values) =>
  JSON.stringify([kind, Object.entries(settings).toSorted(([a], [b]) => (a < b ? -1 : 1)), secret]);

/** A ledger line: name left, value right, what is wrong with it beneath. */
function Entry({
  label,
  problem,
  children,
}: {
  readonly label: string;
  readonly problem?: Parameters<typeof ProblemLine>[0]['problem'];
  readonly children: React.ReactNode;
}) {
  return (
    <Field className="grid grid-cols-[10rem_1fr] items-center gap-x-3 border-b py-1.5">
      <Label className="text-ink-soft">{label}</Label>
      {children}
      {problem && (
        <div className="col-start-2 pt-1" role="alert">
          <ProblemLine problem={problem} />
        </div>
      )}
    </Field>
  );
}
