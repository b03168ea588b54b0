import type { Aggregate, Chart, Edit, Layout, LayoutProperty } from '@cendra/core';
import { CHART_KINDS, firstChart } from '@cendra/core';
import { ChoiceSlot } from '../bench/slots';
import { Button } from '../ui/button';
import { Away } from './away';
import type { FieldChoices } from './field-or-expression';
import { FieldOrExpression } from './field-or-expression';

interface ChartSentenceProps extends FieldChoices {
  readonly layout: Layout;
  /** With the edits by which a field comes to be handed over. */
  onSet(property: LayoutProperty, to: Chart | undefined, before?: readonly Edit[]): void;
}

/** What the proof draws of its groups, as a sentence. */
export function ChartSentence({ layout, onSet, handed, more, ...choices }: ChartSentenceProps) {
  const { locked } = choices;
  const { chart } = layout;
  const first = firstChart(layout, handed);
  if (!chart)
    return !locked && first ? (
      <Button small kind="quiet" onClick={() => onSet('chart', first)}>
        Draw it
      </Button>
    ) : null;
  const field = handed.find((each) => each.id === chart.field);
  return (
    <span role="group" aria-label="What is drawn" className="inline-flex items-center gap-1">
      Drawn is the
      <ChoiceSlot
        label="Figure that is drawn"
        value={chart.aggregate}
        choices={field?.aggregates ?? []}
        disabled={locked}
        onChange={(aggregate: Aggregate) => onSet('chart', { ...chart, aggregate })}
      />
      of
      <FieldOrExpression
        {...choices}
        label="Field that is drawn"
        value={chart.field}
        offered={[...handed, ...more].filter((each) => each.aggregates.length > 0).map((each) => each.id)}
        wrong={!field}
        onField={({ id, aggregates }, before) => {
          const [first] = aggregates;
          if (first)
            onSet('chart', { ...chart, field: id, aggregate: aggregates.includes(chart.aggregate) ? chart.aggregate : first }, before);
        }}
      />
      as
      <ChoiceSlot
        label="How it is drawn"
        value={chart.as}
        choices={CHART_KINDS}
        disabled={locked}
        onChange={(as) => onSet('chart', { ...chart, as })}
      />
      <Away label="Draw nothing" hidden={locked} onClick={() => onSet('chart', undefined)} />
    </span>
  );
}
