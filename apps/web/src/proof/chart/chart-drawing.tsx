import { useId } from 'react';
import { Area, Bar, CartesianGrid, ComposedChart, Line, Tooltip, XAxis, YAxis } from 'recharts';
import type { ChartKind } from '@cendra/core';
import type { DrawnChart, Scale } from './drawn';
import { lookOf, Patterns, Point } from './looks';

interface ChartDrawingProps {
  readonly as: ChartKind;
  readonly chart: DrawnChart;
  readonly scale: Scale;
  readonly width: number;
  readonly height: number;
}

const TICK = { fill: 'var(--ink-soft)', fontSize: 12 };
/** So many characters of a group's name stand below it. */
const TICK_CHARACTERS = 16;

const short = (name: string) => (name.length > TICK_CHARACTERS ? `${name.slice(0, TICK_CHARACTERS - 1)}…` : name);
const onAxis = (value: number) => value.toLocaleString('en', { maximumFractionDigits: 6 }).replaceAll(',', '\u202f');

/** A chart as a drawing of a stated size; what it says stands beside it as words and as a table. */
export default function ChartDrawing({ as, chart, scale, width, height }: ChartDrawingProps) {
  const name = useId();
  const { groups, series } = chart;
  const rows = groups.map((group, at) => ({
    group,
    at,
    ...Object.fromEntries(series.map(({ figures }, index) => [`s${index}`, figures[at]?.number ?? null])),
  }));
  return (
    <ComposedChart
      width={width}
      height={height}
      data={rows}
      margin={{ top: 8, right: 12, bottom: 0, left: 0 }}
      barCategoryGap="20%"
      barGap={1}
      accessibilityLayer={false}
    >
      <Patterns name={name} count={series.length} />
      <CartesianGrid vertical={false} stroke="var(--line)" />
      <XAxis
        dataKey="at"
        tick={TICK}
        tickFormatter={(at: number) => short(groups[at] ?? '')}
        stroke="var(--ink-faint)"
        minTickGap={8}
        tickLine={false}
      />
      <YAxis
        domain={[scale.from, scale.to]}
        ticks={scale.ticks}
        interval={0}
        tick={TICK}
        tickFormatter={onAxis}
        stroke="var(--ink-faint)"
        width={64}
        tickLine={false}
      />
      <Tooltip
        cursor={{ fill: 'var(--panel)', stroke: 'var(--ink-faint)' }}
        isAnimationActive={false}
        content={({ payload }) => {
          const at = (payload[0]?.payload as { readonly at: number } | undefined)?.at;
          if (at === undefined) return null;
          return (
            <div className="figures border bg-paper px-2 py-1">
              <p className="font-medium">{groups[at]}</p>
              {series.map(({ name: of, figures }) => (
                <p key={of}>
                  {of}: {figures[at]?.number === null ? 'no figure' : figures[at]?.text}
                </p>
              ))}
            </div>
          );
        }}
      />
      {series.map((each, index) => {
        const look = lookOf(index);
        const own = { key: index, dataKey: `s${index}`, name: each.name, isAnimationActive: false } as const;
        const { key, ...rest } = own;
        const point = ({ cx, cy, index: at }: { readonly cx?: number; readonly cy?: number; readonly index?: number }) =>
          cx === undefined || cy === undefined || !Number.isFinite(cy) ? <g key={at} /> : <Point key={at} x={cx} y={cy} look={look} />;
        if (as === 'bars side by side' || as === 'bars stacked')
          return <Bar key={key} {...rest} fill={`url(#${name}-${index})`} {...(as === 'bars stacked' ? { stackId: 'one' } : {})} />;
        if (as === 'areas')
          return (
            <Area
              key={key}
              {...rest}
              stroke={look.colour}
              strokeWidth={2}
              fill={`url(#${name}-${index})`}
              fillOpacity={0.35}
              type="linear"
            />
          );
        return (
          <Line
            key={key}
            {...rest}
            type="linear"
            stroke={look.colour}
            strokeWidth={as === 'points' ? 0 : 2}
            {...(look.dash === undefined ? {} : { strokeDasharray: look.dash })}
            dot={as === 'points' || groups.length <= 60 ? (point as never) : false}
          />
        );
      })}
    </ComposedChart>
  );
}
