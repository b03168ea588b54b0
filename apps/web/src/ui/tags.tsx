import { X } from 'lucide-react';
import { useState } from 'react';

const MOST_TAGS = 20;
const LONGEST = 40;

interface TagsProps {
  readonly tags: readonly string[];
  readonly locked?: boolean;
  onTag(to: readonly string[]): void;
}

/** Words something is found by: taken off with a click, added by typing. */
export function Tags({ tags, locked = false, onTag }: TagsProps) {
  const [typed, setTyped] = useState('');
  const add = () => {
    const word = typed.trim().slice(0, LONGEST);
    setTyped('');
    if (word !== '' && !tags.includes(word)) onTag([...tags, word]);
  };
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <span className="text-ink-soft">Tagged</span>
      {tags.map((each) => (
        <span key={each} className="inline-flex items-center gap-1 rounded border px-1.5">
          {each}
          {!locked && (
            <button
              type="button"
              aria-label={`Take off the tag ${each}`}
              onClick={() => onTag(tags.filter((other) => other !== each))}
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
          maxLength={LONGEST}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={add}
          onKeyDown={(event) => {
            if (event.key === 'Enter') {
              event.preventDefault();
              add();
            }
            if (event.key === 'Escape') setTyped('');
          }}
          className="slot w-36"
        />
      )}
    </div>
  );
}
