import { useState } from 'react';
import { api } from '../api';
import { dated } from '../ui/format';
import { TextDifference } from '../ui/text-difference';

/** What was made of texts under a signature, each with the function it took the place of. */
export function MadeBefore({ source, signature }: { readonly source: string; readonly signature: string }) {
  const made = api.useKeepingMadeQuery({ id: source, signature });
  const [open, setOpen] = useState<number>();
  if (!made.data || made.data.length === 0) return null;
  return (
    <section aria-label="Kept from texts">
      <h3 className="font-medium">Kept from texts</h3>
      <ul className="border-t">
        {made.data.map((each, at) => (
          <li key={each.madeAt} className="border-b py-1">
            {dated(each.madeAt)}, by {each.madeBy}{' '}
            {each.replaced === null ? (
              <span className="text-ink-soft">as a new one</span>
            ) : (
              <button
                type="button"
                aria-expanded={open === at}
                onClick={() => setOpen(open === at ? undefined : at)}
                className="text-ink-soft underline underline-offset-2"
              >
                in the place of another one
              </button>
            )}
            {open === at && each.replaced !== null && <TextDifference label="What became other" from={each.replaced} to={each.statement} />}
          </li>
        ))}
      </ul>
    </section>
  );
}
