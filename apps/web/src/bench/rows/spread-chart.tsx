import { Bar, BarChart, ResponsiveContainer, Tooltip, XAxis } from 'recharts';
import type { SpreadStepDto } from '../../api';
import { grouped } from '../../ui/format';

/** How many rows lie in each step from the least to the greatest value; also told in words. */
export default function SpreadChart({ spread }: { readonly spread: readonly SpreadStepDto[] }) {
  const [first] = spread;
  const last = spread.at(-1);
  const fullest = spread.reduce((most, each) => (each.rows > most.rows ? each : most), first ?? { from: '', until: '', rows: 0 });
  return (
    <figure className="mt-2">
      <div className="h-24" aria-hidden>
        <ResponsiveContainer>
          <BarChart data={[...spread]} margin={{ top: 4, right: 0, bottom: 0, left: 0 }} barCategoryGap={1} accessibilityLayer={false}>
            <XAxis dataKey="from" hide />
            <Tooltip
              cursor={{ fill: 'var(--panel)' }}
              isAnimationActive={false}
              content={({ payload }) => {
                const step = payload?.[0]?.payload as SpreadStepDto | undefined;
                return step ? (
                  <p className="border bg-paper px-2 py-1">
                    {step.from} to {step.until}: {grouped(step.rows)}
                  </p>
                ) : null;
              }}
            />
            <Bar dataKey="rows" fill="var(--ink-faint)" isAnimationActive={false} />
          </BarChart>
        </ResponsiveContainer>
      </div>
      <div className="flex justify-between border-t text-ink-soft" aria-hidden>
        <span>{first?.from}</span>
        <span>{last?.until}</span>
      </div>
      <figcaption className="sr-only">
        Spread in {spread.length} steps from {first?.from} to {last?.until}; most rows, {fullest.rows}, lie from {fullest.from} to{' '}
        {fullest.until}.
      </figcaption>
    </figure>
  );
}
