import { FileUp } from 'lucide-react';
import { useRef, useState } from 'react';
import { TEXT_MOST } from '@cendra/core';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { ChoiceSlot } from '../bench/slots';
import { Button } from '../ui/button';
import { ProblemLine } from '../ui/notice';

/** What became of one file. */
interface Taken {
  readonly file: string;
  /** Why it was not taken. */
  readonly because?: string;
}

/** Takes .sql files onto the shelf, as many as are chosen; each says what became of it. */
export function FileTexts() {
  const sources = api.useSourcesListQuery().data ?? [];
  const [chosen, setChosen] = useState<string>();
  const [taken, setTaken] = useState<readonly Taken[]>([]);
  const [keep, keeping] = api.useKeptTextsKeepMutation();
  const input = useRef<HTMLInputElement>(null);
  const source = sources.find((each) => each.name === chosen) ?? sources[0];
  const takeAll = async (files: readonly File[]) => {
    if (!source) return;
    setTaken([]);
    for (const file of files) {
      const read = await readText(file);
      const because = 'because' in read ? read.because : await refusal(read.text, nameOf(file));
      setTaken((before) => [...before, { file: file.name, ...(because === undefined ? {} : { because }) }]);
    }
  };
  const refusal = async (text: string, name: string) => {
    const answer = await keep({ newKeptTextDto: { source: source?.id ?? '', name, note: '', tags: [], text } });
    return failureOf(answer.error)?.problems[0]?.message;
  };
  if (!source) return null;
  const good = taken.filter((each) => each.because === undefined).length;
  return (
    <div className="mt-2 space-y-1">
      <p>
        <input
          ref={input}
          type="file"
          multiple
          accept=".sql,.txt,application/sql,text/plain"
          aria-label="SQL files"
          className="sr-only"
          tabIndex={-1}
          onChange={(event) => {
            void takeAll([...(event.target.files ?? [])]);
            event.target.value = '';
          }}
        />
        <Button small icon={FileUp} disabled={keeping.isLoading} onClick={() => input.current?.click()}>
          Take .sql files
        </Button>
        {sources.length > 1 && (
          <>
            {' '}
            written for{' '}
            <ChoiceSlot
              label="Source they are written for"
              value={source.name}
              choices={sources.map((each) => each.name)}
              onChange={setChosen}
            />
          </>
        )}
      </p>
      {taken.length > 0 && (
        <div role="status">
          <p>
            {good} of {taken.length} {taken.length === 1 ? 'file' : 'files'} taken.
          </p>
          {taken.flatMap(({ file, because }) =>
            because === undefined ? [] : [<ProblemLine key={file} problem={{ severity: 'error', message: `${file}: ${because}` }} />],
          )}
        </div>
      )}
    </div>
  );
}

const nameOf = (file: File) => file.name.replace(/\.(sql|txt)$/i, '').slice(0, 200) || file.name;

/** A file as a text. What is not UTF-8 is refused rather than read as something it is not. */
async function readText(file: File): Promise<{ readonly text: string } | { readonly because: string }> {
  if (file.size > TEXT_MOST * 4) return { because: `it is ${file.size} bytes long; a text has at most ${TEXT_MOST} characters.` };
  try {
    const text = new TextDecoder('utf-8', { fatal: true }).decode(await file.arrayBuffer());
    if (text.length > TEXT_MOST) return { because: `it is ${text.length} characters long; a text has at most ${TEXT_MOST}.` };
    return text.trim() === '' ? { because: 'there is nothing in it.' } : { text };
  } catch {
    return { because: 'it is not written in UTF-8.' };
  }
}
