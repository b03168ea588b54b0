import { lazy, Suspense, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import type { KeptTextDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { ChoiceSlot } from '../bench/slots';
import { useBegin } from '../datasets/use-begin';
import { Button } from '../ui/button';
import { ConfirmDialog } from '../ui/confirm-dialog';
import { clock } from '../ui/format';
import { keepFile } from '../ui/keep-file';
import { LongText } from '../ui/long-text';
import { FailureNotice } from '../ui/notice';
import { Tags } from '../ui/tags';
import { Waiting } from '../ui/waiting';
import { TextDifference } from '../ui/text-difference';

const WrittenText = lazy(() => import('./written-text'));

/** One text of the shelf: its words, its versions, what is like it, and where it is used. */
export function KeptTextPage() {
  const { id = '' } = useParams();
  const { data, error } = api.useKeptTextsOneQuery({ id });
  if (data) return <Shown key={data.id} kept={data} />;
  return <main className="p-4">{error ? <FailureNotice failure={failureOf(error)} /> : <Waiting what="Reading the text" />}</main>;
}

function Shown({ kept }: { readonly kept: KeptTextDto }) {
  const { id, name, note, source, tags, version, versions, uses } = kept;
  const sources = api.useSourcesListQuery().data ?? [];
  const [change, changing] = api.useKeptTextsChangeMutation();
  const [remove, removing] = api.useKeptTextsRemoveMutation();
  const { beginText, beginning, failure } = useBegin();
  const [asked, setAsked] = useState(false);
  const newest = versions[0]?.text ?? '';
  /** Typed here, and not a version yet. */
  const [typed, setTyped] = useState<string>();
  const [typedOn, setTypedOn] = useState(version);
  const navigate = useNavigate();
  const say = (said: object) => void change({ id, changedKeptTextDto: { version, ...said } });
  const saveText = async () => {
    const answer = await change({ id, changedKeptTextDto: { version: typedOn, text: typed ?? '' } });
    if (answer.data) setTyped(undefined);
  };
  const written = typed !== undefined && typed !== newest;
  return (
    <main className="mx-auto flex h-full max-w-6xl flex-col overflow-auto p-4">
      <p className="text-meta">
        <Link to="/texts" className="text-ink-soft underline underline-offset-2">
          Kept texts
        </Link>
      </p>
      <div className="flex flex-wrap items-end gap-2">
        <h1 className="mr-auto font-serif text-title">{name}</h1>
        <Button
          kind="primary"
          disabled={written || beginning}
          title={written ? 'What was typed is no version yet' : undefined}
          onClick={() => void beginText(source, newest, { title: name, kept: { text: id, version } })}
        >
          Start a dataset from it
        </Button>
        <Button onClick={() => keepFile(new Blob([newest, '\n'], { type: 'application/sql' }), `${name}.sql`)}>Take away as .sql</Button>
        <Button onClick={() => setAsked(true)}>Take it off the shelf</Button>
      </div>
      <FailureNotice failure={failure ?? failureOf(changing.error ?? removing.error)} />
      <div className="mt-2 grid gap-2 border-t py-2 md:grid-cols-2">
        <div className="space-y-1">
          <LongText
            label="Name of the text"
            value={name}
            placeholder="Its name"
            rows={1}
            most={200}
            onKeep={(to) => to.trim() !== '' && say({ name: to.trim() })}
          />
          <LongText
            label="Note on the text"
            value={note}
            placeholder="What it is for, and what to know of it"
            rows={2}
            most={2_000}
            onKeep={(to) => say({ note: to })}
          />
        </div>
        <div className="space-y-1">
          <Tags tags={tags} onTag={(to) => say({ tags: to })} />
          <p>
            Written for{' '}
            <ChoiceSlot
              label="Source it is written for"
              value={sources.find((each) => each.id === source)?.name ?? 'a source that was removed'}
              choices={sources.map((each) => each.name)}
              onChange={(to) => say({ source: sources.find((each) => each.name === to)?.id })}
            />
          </p>
          <Uses uses={uses} version={version} />
        </div>
      </div>
      <section aria-label="Text" className="flex min-h-64 flex-1 flex-col border-t pt-2">
        <div className="flex items-center gap-2 pb-1">
          <h2 className="font-medium">Version {version}</h2>
          {written && (
            <>
              <Button small kind="primary" disabled={changing.isLoading} onClick={() => void saveText()}>
                Make it version {typedOn + 1}
              </Button>
              <Button small onClick={() => setTyped(undefined)}>
                Leave it as it was
              </Button>
            </>
          )}
        </div>
        <Suspense fallback={<pre className="flex-1 overflow-auto border px-3 py-2 font-mono">{newest}</pre>}>
          <div className="min-h-48 flex-1 border">
            <WrittenText
              source={source}
              text={typed ?? newest}
              onType={(to) => {
                if (typed === undefined) setTypedOn(version);
                setTyped(to);
              }}
            />
          </div>
        </Suspense>
      </section>
      <Compared kept={kept} typed={written ? typed : undefined} />
      <ConfirmDialog
        open={asked}
        title={`Take ${name} off the shelf?`}
        action="Take it off"
        onConfirm={() => void remove({ id }).then((answer) => !answer.error && navigate('/texts'))}
        onClose={() => setAsked(false)}
      >
        {uses.length === 0
          ? 'All its versions go. No dataset uses it.'
          : `All its versions go. ${uses.length === 1 ? 'The dataset that took it keeps its' : `The ${uses.length} datasets that took it keep their`} own text.`}
      </ConfirmDialog>
    </main>
  );
}

function Uses({ uses, version }: Pick<KeptTextDto, 'uses' | 'version'>) {
  if (uses.length === 0) return <p className="text-ink-soft">No dataset uses it.</p>;
  return (
    <ul aria-label="Where it is used" className="max-h-24 overflow-auto">
      {uses.map((each) => (
        <li key={each.id}>
          Used in{' '}
          <Link to={`/datasets/${each.id}/bench`} className="underline underline-offset-2">
            {each.title}
          </Link>
          <span className={each.version < version ? 'text-amber' : 'text-ink-soft'}>
            {each.version < version ? `, as version ${each.version}` : ', as it is'}
          </span>
        </li>
      ))}
    </ul>
  );
}

/** A text something can be compared with, by words that say what it is. */
interface Other {
  readonly words: string;
  readonly text: string;
}

/** What differs from another version, or from a text that says much the same. */
function Compared({ kept, typed }: { readonly kept: KeptTextDto; readonly typed: string | undefined }) {
  const { versions, alike } = kept;
  const newest = versions[0]?.text ?? '';
  const others: readonly Other[] = [
    ...(typed === undefined ? versions.slice(1) : versions).map(({ number, text, madeAt, madeBy }) => ({
      words: `version ${number}, of ${clock(madeAt)}${madeBy === '' ? '' : ` by ${madeBy}`}`,
      text,
    })),
    ...alike.map(({ name, text, share }) => ({
      words: `${name} (${share === 1 ? 'says the same' : `${Math.floor(share * 100)} % the same`})`,
      text,
    })),
  ];
  const [chosen, setChosen] = useState<string>();
  const other = others.find((each) => each.words === chosen) ?? others[0];
  if (!other) return null;
  return (
    <section aria-label="Compared" className="mt-2 border-t pt-2">
      {alike.length > 0 && <p className="text-amber">Much the same is kept as {alike.map((each) => each.name).join(', ')}.</p>}
      <p className="pb-1">
        What differs from{' '}
        <ChoiceSlot label="Compared with" value={other.words} choices={others.map((each) => each.words)} onChange={setChosen} />
      </p>
      <TextDifference label="What differs" from={other.text} to={typed ?? newest} />
    </section>
  );
}
