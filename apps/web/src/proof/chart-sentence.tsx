import type { Aggregate, Chart, Layout, LayoutProperty, SheetField } from '@cendra/core';
import { CHART_KINDS, firstChart } from '@cendra/core';
import { ChoiceSlot } from '../bench/slots';
import { Button } from '../ui/button';
import { Away } from './away';
import { fieldWords } from './field-words';

interface ChartSentenceProps {
  readonly layout: Layout;
  readonly handed: readonly SheetField[];
  readonly locked: boolean;
  onSet(property: LayoutProperty, to: Chart | undefined): void;
}

/** What the proof draws of its groups, as a sentence. */
export function ChartSentence({ layout, handed, locked, onSet }: ChartSentenceProps) {
  const { chart } = layout;
  const first = firstChart(layout, handed);
  const words = fieldWords(handed);
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
      <ChoiceSlot
        label="Field that is drawn"
        value={words.of(chart.field)}
        choices={handed.filter((each) => each.aggregates.length > 0).map((each) => words.of(each.id))}
        disabled={locked}
        onChange={(word) => {
          const next = words.field(word);
          const [aggregate] = next?.aggregates ?? [];
          if (next && aggregate)
            onSet('chart', {
              ...chart,
              field: next.id,
              aggregate: next.aggregates.includes(chart.aggregate) ? chart.aggregate : aggregate,
            });
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
