import { useState } from 'react';
import { Button } from '../ui/button';

interface PasteNamesProps {
  /** The id that a name stands for; undefined where it stands for nothing. */
  readonly match: (name: string) => string | undefined;
  /** What is said where a name stands for nothing: “No column of harvests is called”. */
  readonly none: string;
  readonly onTake: (ids: readonly string[]) => void;
  readonly onClose: () => void;
}

/** Takes fields by a pasted list of names; names that stand for nothing are listed and stay. */
export function PasteNames({ match, none, onTake, onClose }: PasteNamesProps) {
  const [text, setText] = useState('');
  const [missing, setMissing] = useState<readonly string[]>([]);
  const take = () => {
    const names = text.split(/[\s,;]+/).filter((each) => each !== '');
    const found = (name: string) => match(name.toLowerCase().replaceAll('"', ''));
    const unknown = names.filter((name) => found(name) === undefined);
    onTake(names.flatMap((name) => found(name) ?? []));
    setMissing(unknown);
    if (unknown.length === 0) onClose();
    else setText(unknown.join('\n'));
  };
  return (
    <div className="mt-2 space-y-1 border bg-panel p-2">
      <textarea
        autoFocus
        aria-label="Names of fields to take"
        rows={4}
        placeholder="Names, separated by commas, blanks or line ends"
        value={text}
        onChange={(event) => setText(event.target.value)}
        className="w-full rounded border bg-paper px-2 py-1 font-mono"
      />
      {missing.length > 0 && (
        <p role="alert" className="text-amber">
          {none} {missing.join(', ')}.
        </p>
      )}
      <div className="flex gap-2">
        <Button small kind="primary" onClick={take} disabled={text.trim() === ''}>
          Take them
        </Button>
        <Button small onClick={onClose}>
          Close
        </Button>
      </div>
    </div>
  );
}
