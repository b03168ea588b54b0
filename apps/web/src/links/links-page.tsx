import { useState } from 'react';
import { allowedProblem } from '@cendra/core';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { Button } from '../ui/button';
import { EmptyState, FailureNotice, ProblemLine } from '../ui/notice';
import { Waiting } from '../ui/waiting';

/** Where links of rows may lead to, for the steward. */
export function LinksPage() {
  const allowed = api.useLinksAllowedQuery();
  const [allow, allowing] = api.useLinksAllowMutation();
  const [typed, setTyped] = useState('');
  if (!allowed.data)
    return (
      <main className="p-4">
        {allowed.error ? <FailureNotice failure={failureOf(allowed.error)} /> : <Waiting what="Reading the addresses" />}
      </main>
    );
  const { beginnings } = allowed.data;
  const wanted = typed.trim();
  const wrong = wanted === '' ? undefined : allowedProblem(wanted);
  const set = (to: readonly string[]) => allow({ allowedAddressesDto: { beginnings: [...to] } });
  const add = async () => {
    if (wanted === '' || wrong || beginnings.includes(wanted)) return;
    const answer = await set([...beginnings, wanted]);
    if (!answer.error) setTyped('');
  };
  return (
    <main tabIndex={0} className="h-full overflow-auto p-4">
      <h1 className="font-serif text-title">Links</h1>
      <p className="mt-1 max-w-3xl text-ink-soft">
        In the proof and in its papers a value may lead to the record it came from. It leads only where an address begins as one of these;
        values in it are encoded, so that none can change where it leads.
      </p>
      {beginnings.length === 0 ? (
        <EmptyState>Nothing is allowed yet, so no value leads anywhere.</EmptyState>
      ) : (
        <ul aria-label="Addresses that are allowed" className="mt-3 max-w-3xl border-t">
          {beginnings.map((each) => (
            <li key={each} className="flex items-center justify-between gap-4 border-b py-1">
              <span className="min-w-0 font-mono break-all">{each}</span>
              <Button
                small
                disabled={allowing.isLoading}
                aria-label={`Take away ${each}`}
                onClick={() => void set(beginnings.filter((own) => own !== each))}
              >
                Take away
              </Button>
            </li>
          ))}
        </ul>
      )}
      <form
        className="mt-4 flex max-w-3xl items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void add();
        }}
      >
        <label className="min-w-0 flex-1">
          <span className="block text-meta text-ink-soft">An address begins with</span>
          <input
            value={typed}
            placeholder="https://records.example/"
            onChange={(event) => setTyped(event.target.value)}
            className="h-8 w-full rounded border bg-paper px-2 font-mono"
          />
        </label>
        <Button kind="primary" type="submit" disabled={wanted === '' || wrong !== undefined || allowing.isLoading}>
          Allow it
        </Button>
      </form>
      {wrong && (
        <div className="mt-1" role="status">
          <ProblemLine problem={wrong} />
        </div>
      )}
      {beginnings.includes(wanted) && <p className="mt-1 text-ink-soft">It is allowed already.</p>}
      <FailureNotice failure={failureOf(allowing.error)} />
    </main>
  );
}
