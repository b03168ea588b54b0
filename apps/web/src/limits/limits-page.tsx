import { api } from '../api';
import type { LimitDto, UseDto } from '../api';
import { failureOf } from '../api/problem';
import { grouped } from '../ui/format';
import { FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';

/** So often is asked what is in use, in ms. */
const AGAIN_AFTER = 3_000;

/** What is in use now and every limit in force, for the steward. */
export function LimitsPage() {
  const limits = api.useHealthLimitsQuery();
  const used = api.useHealthUsedQuery(undefined, { pollingInterval: AGAIN_AFTER, skipPollingIfUnfocused: true });
  if (!limits.data)
    return (
      <main className="p-4">
        {limits.error ? <FailureNotice failure={failureOf(limits.error)} /> : <Waiting what="Reading the limits" />}
      </main>
    );
  return (
    <main tabIndex={0} className="h-full overflow-auto p-4">
      <h1 className="font-serif text-title">Limits</h1>
      <h2 className="mt-3 font-medium">In use now</h2>
      {used.data ? (
        <InUse uses={used.data} />
      ) : used.error ? (
        <FailureNotice failure={failureOf(used.error)} />
      ) : (
        <Waiting what="Asking what is in use" />
      )}
      <h2 className="mt-5 font-medium">In force</h2>
      <p className="text-ink-soft">What Cendra takes from outside, at most.</p>
      <InForce limits={limits.data} />
    </main>
  );
}

function InUse({ uses }: { readonly uses: readonly UseDto[] }) {
  return (
    <table className="figures mt-2 border-t" aria-label="In use now">
      <thead className="sr-only">
        <tr>
          <th>in use</th>
          <th>of at most</th>
          <th>share</th>
          <th>what</th>
        </tr>
      </thead>
      <tbody>
        {uses.map(({ name, value, unit, says, most }) => (
          <tr key={name} className="border-b">
            <td className="py-1 pr-2 text-right">{value === null ? <span className="text-amber">not told</span> : amount(value, unit)}</td>
            <td className="pr-4 text-ink-soft">{most === null ? '' : `of ${amount(most, unit)}`}</td>
            <td className="pr-6">{most === null || value === null ? null : <Share of={value / most} />}</td>
            <td>{says}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** How near something is to its limit; the figures beside it say the same. */
function Share({ of }: { readonly of: number }) {
  const part = Math.min(1, of);
  return (
    <span aria-hidden className="inline-block h-1.5 w-24 bg-panel align-middle">
      <span className={`block h-full ${part > 0.8 ? 'bg-ember' : 'bg-moss'}`} style={{ width: `${part * 100}%` }} />
    </span>
  );
}

function InForce({ limits }: { readonly limits: readonly LimitDto[] }) {
  return (
    <table className="figures mt-2 border-t" aria-label="In force">
      <thead className="sr-only">
        <tr>
          <th>limit</th>
          <th>unit</th>
          <th>of what</th>
        </tr>
      </thead>
      <tbody>
        {limits.map(({ name, value, unit, says }) => (
          <tr key={name} className="border-b">
            <td className="py-1 pr-2 text-right">{grouped(value)}</td>
            <td className="pr-6 text-ink-soft">{unit}</td>
            <td>{says}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Bytes in millions, which is how limits on them are thought of; other things by their number. */
const amount = (value: number, unit: string) =>
  unit === 'bytes'
    ? `${(value / 1_000_000).toFixed(value < 10_000_000 ? 1 : 0).replace(/\B(?=(\d{3})+(?!\d))/g, '\u202f')} MB`
    : grouped(value);
