import { DialogTitle, Textarea } from '@headlessui/react';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { conversionOf, statementsIn, TEXT_MOST, tokensOf } from '@cendra/core';
import { api } from '../api';
import { ChoiceSlot } from '../bench/slots';
import { Button } from '../ui/button';
import { FailureNotice, ProblemLine } from '../ui/notice';
import { Overlay } from '../ui/overlay';
import { useBegin } from './use-begin';

/** Begins a dataset from a text of SQL, as it was found: what is wrong with it is told on the bench, where it can be mended. */
export default function TextDialog({ onClose }: { readonly onClose: () => void }) {
  const sources = api.useSourcesListQuery().data ?? [];
  const [chosen, setChosen] = useState<string>();
  const [text, setText] = useState('');
  const { beginText, beginning, failure } = useBegin();
  const source = sources.find((each) => each.name === chosen) ?? sources[0];
  const long = text.length > TEXT_MOST;
  // What is declared at its head is no statement of a script.
  const several = useMemo(() => (long || conversionOf(text) ? 1 : statementsIn(tokensOf(text)).length), [long, text]);
  const [asScript, setAsScript] = useState(true);
  return (
    <Overlay place="top" look="flex w-[46rem] max-w-full flex-col" onClose={onClose}>
      <DialogTitle className="border-b px-3 py-2 font-medium">A new dataset is what this text gives</DialogTitle>
      <div className="flex flex-col gap-2 px-3 py-2">
        <p>
          It runs in{' '}
          <ChoiceSlot
            label="Source the text runs in"
            value={source?.name ?? 'no source'}
            choices={sources.map((each) => each.name)}
            disabled={sources.length < 2}
            onChange={setChosen}
          />
        </p>
        <Textarea
          autoFocus
          aria-label="SQL text"
          placeholder="select … from …"
          spellCheck={false}
          value={text}
          onChange={(event) => setText(event.target.value)}
          className="h-72 w-full resize-none rounded border bg-paper px-2 py-1 font-mono"
        />
        <p className="text-ink-soft">
          Or start from a{' '}
          <Link to="/texts" className="underline underline-offset-2">
            kept text
          </Link>
          .
        </p>
        {several > 1 && (
          <p>
            There are {several} statements in it. They run in their order, in one session: a{' '}
            <ChoiceSlot
              label="What the text is"
              value={asScript ? 'script' : 'text of one statement'}
              choices={['script', 'text of one statement']}
              onChange={(what) => setAsScript(what === 'script')}
            />
            {asScript ? ', whose last one gives the rows.' : ', which is asked for on the bench.'}
          </p>
        )}
        {long && (
          <ProblemLine
            problem={{ severity: 'error', message: `This text is ${text.length} characters long.`, expected: `at most ${TEXT_MOST}` }}
          />
        )}
        {sources.length === 0 && <p className="text-ink-soft">No source is given to you yet. A steward gives sources.</p>}
        <FailureNotice failure={failure} />
      </div>
      <div className="flex justify-end gap-2 border-t px-3 py-2">
        <Button small onClick={onClose}>
          Leave it
        </Button>
        <Button
          small
          kind="primary"
          disabled={!source || text.trim() === '' || long || beginning}
          onClick={() => source && void beginText(source.id, text, several > 1 && asScript ? { script: true } : {})}
        >
          Begin
        </Button>
      </div>
    </Overlay>
  );
}
