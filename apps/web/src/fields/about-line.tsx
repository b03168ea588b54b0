import { X } from 'lucide-react';
import { useState } from 'react';
import type { Bench } from '../bench/use-bench';
import { KeptText } from '../ui/kept-text';

const MOST_TAGS = 20;

/** What the dataset is, in a few sentences and tags; both are found by on the list of datasets. */
export function AboutLine({ bench }: { readonly bench: Bench }) {
  const { description, tags } = bench.bench.definition;
  const { edit, withoutValues: locked } = bench;
  const [typed, setTyped] = useState('');
  const tag = (to: readonly string[]) => edit({ kind: 'set dataset', property: 'tags', from: tags, to });
  const add = () => {
    const word = typed.trim().slice(0, 40);
    setTyped('');
    if (word !== '' && !tags.includes(word)) tag([...tags, word]);
  };
  return (
    <section aria-label="About the dataset" className="space-y-1 border-b px-4 py-3">
      <KeptText
        label="Description of the dataset"
        value={description}
        placeholder="What this dataset is, for those who find it"
        rows={2}
        most={5_000}
        disabled={locked}
        onKeep={(to) => edit({ kind: 'set dataset', property: 'description', from: description, to })}
      />
      <div className="flex flex-wrap items-center gap-1.5">
        <span className="text-ink-soft">Tagged</span>
        {tags.map((each) => (
          <span key={each} className="inline-flex items-center gap-1 rounded border px-1.5">
            {each}
            {!locked && (
              <button
                type="button"
                aria-label={`Take off the tag ${each}`}
                onClick={() => tag(tags.filter((other) => other !== each))}
                className="text-ink-faint hover:text-ink"
              >
                <X size={12} strokeWidth={1.75} aria-hidden />
              </button>
            )}
          </span>
        ))}
        {!locked && tags.length < MOST_TAGS && (
          <input
            aria-label="Add a tag"
            value={typed}
            placeholder="a word, then Enter"
            maxLength={40}
            onChange={(event) => setTyped(event.target.value)}
            onBlur={add}
            onKeyDown={(event) => {
              if (event.key === 'Enter') add();
              if (event.key === 'Escape') setTyped('');
            }}
            className="slot w-36"
          />
        )}
      </div>
    </section>
  );
}
