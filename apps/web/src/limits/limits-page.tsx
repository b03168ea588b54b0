import { api } from '../api';
import { failureOf } from '../api/problem';
import { grouped } from '../ui/format';
import { FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';

/** Every limit in force, for the steward. */
export function LimitsPage() {
  const limits = api.useHealthLimitsQuery();
  if (!limits.data)
    return (
      <main className="p-4">
        {limits.error ? <FailureNotice failure={failureOf(limits.error)} /> : <Waiting what="Reading the limits" />}
      </main>
    );
  return (
    <main tabIndex={0} className="h-full overflow-auto p-4">
      <h1 className="font-serif text-title">Limits</h1>
      <p className="text-ink-soft">What Cendra takes from outside, at most.</p>
      <table className="figures mt-3 border-t">
        <thead className="sr-only">
          <tr>
            <th>limit</th>
            <th>unit</th>
            <th>of what</th>
          </tr>
        </thead>
        <tbody>
          {limits.data.map(({ name, value, unit, says }) => (
            <tr key={name} className="border-b">
              <td className="py-1 pr-2 text-right">{grouped(value)}</td>
              <td className="pr-6 text-ink-soft">{unit}</td>
              <td>{says}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </main>
  );
}
