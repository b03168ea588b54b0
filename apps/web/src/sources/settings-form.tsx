import { Field, Input, Label, Select } from '@headlessui/react';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import type { NewSourceDto, SourceDto, TestAnswerDto } from '../api';
import { api } from '../api';
import type { Failure } from '../api/problem';
import { failureOf } from '../api/problem';
import { Button } from '../ui/button';
import { FailureNotice, ProblemLine } from '../ui/notice';
import { TestLine } from './test-line';

type Values = Omit<NewSourceDto, 'port'> & { port: string };

const EMPTY: Values = { name: '', mark: '', host: '', port: '5432', database: '', user: '', password: '', tls: 'verified' };

interface SettingsFormProps {
  readonly source?: SourceDto;
  readonly onDone: (source: SourceDto) => void;
  readonly onLeave: () => void;
}

/** Adds or changes a PostgreSQL source. A test speaks of the settings it was made with; a changed one makes it stale. */
export function SettingsForm({ source, onDone, onLeave }: SettingsFormProps) {
  const stored: Values = source?.settings
    ? { ...EMPTY, ...source.settings, port: String(source.settings.port), name: source.name, mark: source.mark }
    : EMPTY;
  const { register, handleSubmit, watch, getValues } = useForm<Values>({ defaultValues: stored });
  const [add] = api.useSourcesAddMutation();
  const [change] = api.useSourcesChangeMutation();
  const [tryOut, trying] = api.useSourcesTryMutation();
  const [failure, setFailure] = useState<Failure>();
  const [tested, setTested] = useState<{ readonly answer: TestAnswerDto; readonly of: string }>();
  const now = settingsKey(watch());

  const test = async () => {
    setFailure(undefined);
    const values = getValues();
    const { host, database, user, tls, password } = values;
    const answer = await tryOut({
      testSourceDto: {
        host,
        database,
        user,
        tls,
        port: Number(values.port),
        ...(password === '' ? {} : { password }),
        ...(source ? { source: source.id } : {}),
      },
    });
    if (answer.data) setTested({ answer: answer.data, of: settingsKey(values) });
    else setFailure(failureOf(answer.error));
  };
  const keep = async (values: Values) => {
    const { password, ...rest } = { ...values, port: Number(values.port) };
    const answer = source
      ? await change({ id: source.id, changedSourceDto: password === '' ? rest : { ...rest, password } })
      : await add({ newSourceDto: { ...rest, password } });
    if (answer.data) onDone(answer.data);
    else setFailure(failureOf(answer.error));
  };
  const at = (name: string) =>
    failure?.problems.find((each) => each.place.pointer === `/${name}`) ??
    (tested && !tested.answer.ok && tested.of === now && tested.answer.problem?.place.pointer === `/${name}`
      ? tested.answer.problem
      : undefined);
  const input = (name: keyof Values, label: string, rest: object = {}) => (
    <Entry label={label} problem={at(name)}>
      <Input {...register(name)} {...rest} className={INPUT} />
    </Entry>
  );
  const elsewhere = failure && {
    ...failure,
    problems: failure.problems.filter((each) => !NAMES.some((name) => each.place.pointer === `/${name}`)),
  };
  return (
    <form onSubmit={handleSubmit(keep)} className="max-w-xl space-y-1" aria-label={source ? `Settings of ${source.name}` : 'A new source'}>
      {input('name', 'Name', { required: true })}
      {input('mark', 'Two-letter mark', { required: true, maxLength: 2 })}
      {input('host', 'Host', { required: true })}
      {input('port', 'Port', { required: true, inputMode: 'numeric', pattern: '[0-9]{1,5}' })}
      {input('database', 'Database', { required: true })}
      {input('user', 'User', { required: true, autoComplete: 'off' })}
      {input('password', 'Password', { type: 'password', autoComplete: 'new-password', placeholder: source ? 'unchanged' : '' })}
      <Entry label="TLS" problem={at('tls')}>
        <Select {...register('tls')} className={INPUT}>
          <option value="verified">verified: certificate checked</option>
          <option value="required">required: encrypted, certificate not checked</option>
          <option value="off">off</option>
        </Select>
      </Entry>
      <div className="space-y-2 py-2">
        {tested && (
          <TestLine answer={tested.answer} stale={tested.of !== now} placed={NAMES.some((name) => at(name) === tested.answer.problem)} />
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
const NAMES = ['name', 'mark', 'host', 'port', 'database', 'user', 'password', 'tls'];

const settingsKey = ({ host, port, database, user, password, tls }: Values) => JSON.stringify([host, port, database, user, password, tls]);

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
