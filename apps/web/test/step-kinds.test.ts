import { createElement } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import fc from 'fast-check';
import type { Definition, Step } from '@cendra/core';
import { applyEdits, checkTrail, emptyDefinition, KINDS, lanesOf } from '@cendra/core';
import { graph } from '../../../packages/core/test/support/graphs';
import { table } from '../../../packages/core/test/support/harvests';
import { meetStep } from '../../../packages/core/test/support/made-up-kind';
import { LaneStrip } from '../src/bench/lane-strip';
import type { BenchKind } from '../src/bench/step-kind';
import { BENCH_KINDS } from '../src/bench/step-kinds';

/** What the bench has to know of a kind of step: a line in its registry. A made-up kind with two inputs is added by that alone. */

const meet: BenchKind = {
  Editor: ({ checked }) => createElement('p', null, `${checked.step.inputs.length} inputs`),
  adding: {
    word: 'Meet',
    says: 'bring partners to the rows',
    begin: (mint, definition, after) => {
      const step = meetStep({ id: mint(), inputs: [after.step.id], by: ['f', 'f'], brought: [] });
      return { edits: [{ kind: 'add step', step, at: { after: after.step.id, before: null }, heirs: [] }], step: step.id };
    },
  },
};
/** Its line in the registry. */
Object.assign(BENCH_KINDS, { meet });

test('every kind of step has an editor', () => {
  expect(Object.keys(BENCH_KINDS).sort()).toEqual(Object.keys(KINDS).sort());
});

test('choosing a kind puts its step behind the selected one, with slots of its own still empty', () => {
  const kind = (BENCH_KINDS as Readonly<Record<string, BenchKind>>).meet;
  const before: Definition = { ...emptyDefinition('A'), steps: [table], result: 't' };
  const adding = kind?.adding;
  if (!adding || !('begin' in adding)) throw new Error('the kind is added at once');
  const [first] = checkTrail(before).steps;
  if (!first) throw new Error('the table is checked');
  const { edits, step } = adding.begin(() => 'minted', before, first);
  const after = applyEdits(before, edits);
  expect([step, after.steps.map((each) => each.id), after.steps[1]?.inputs]).toEqual(['minted', ['t', 'minted'], ['t']]);
});

const SOURCES = [
  { id: 's1', mark: 'CD' },
  { id: 's2', mark: 'FN' },
  { id: 's3', mark: 'LB' },
];

test('lanes of any graph are drawn: a letter mark where a source begins, a word where lanes meet', () => {
  let meetings = 0;
  fc.assert(
    fc.property(graph, ({ definition }) => {
      for (const line of lanesOf({ definition })) {
        const drawn = renderToStaticMarkup(createElement(LaneStrip, { line, sources: SOURCES, lanes: 8, off: false }));
        const step = definition.steps.find((each) => each.id === line.step) as Step;
        for (const { id, mark } of SOURCES) {
          const begins = step.kind === 'table' && step.source === id;
          expect(drawn.includes(`from source </span>${mark}`)).toBe(begins);
        }
        expect(drawn.includes('where lanes meet')).toBe(line.joins.length > 0);
        expect(drawn).not.toContain('NaN');
        meetings += line.joins.length;
      }
    }),
  );
  expect(meetings).toBeGreaterThan(20);
});
