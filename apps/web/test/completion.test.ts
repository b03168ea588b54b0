import { CompletionContext } from '@codemirror/autocomplete';
import { EditorState } from '@codemirror/state';
import type { Field, Parameter, Schema } from '@cendra/core';
import { date, decimal, text } from '@cendra/core';
import { completionsOf } from '../src/bench/calculate/completion';

const field = (name: string, type: Field['type']): Field => ({
  id: name,
  name,
  type,
  role: 'attribute',
  origin: { step: 't', column: name },
  forUseOnly: false,
});
const schema: Schema = {
  fields: [field('kilos', decimal(8, 2)), field('picked_on', date), field('Net "weight"', decimal(8, 2)), field('case', text)],
};
const minKilos: Parameter = {
  id: 'p',
  name: 'min_kilos',
  type: 'decimal',
  takes: 'one',
  leftBlank: 'condition is off',
  startsAs: [],
  hint: '',
};

/** What is offered at the bar in a text; `null` where nothing is. */
function offered(written: string, explicit = false) {
  const at = written.indexOf('|');
  const state = EditorState.create({ doc: written.replace('|', '') });
  const given = completionsOf(new CompletionContext(state, at, explicit), { schema, parameters: [minKilos] });
  return given && { from: given.from, labels: given.options.map((each) => each.label), options: given.options };
}

describe('while an expression is typed', () => {
  test('a word offers fields, functions, parameters and forms, and fields before all others', () => {
    const given = offered('round(ki|');
    expect(given?.from).toBe(6);
    expect(given?.labels).toEqual(expect.arrayContaining(['kilos', 'round', ':min_kilos', 'case', 'partition by']));
    const boost = (label: string) => given?.options.find((each) => each.label === label)?.boost ?? 0;
    expect(boost('kilos')).toBeGreaterThan(boost(':min_kilos'));
    expect(boost(':min_kilos')).toBeGreaterThan(boost('partition by'));
  });

  test('a name that is no plain word is written in quotes, and shown without', () => {
    const options = offered('n|')?.options ?? [];
    expect(options.find((each) => each.displayLabel === 'Net "weight"')?.label).toBe('"Net ""weight"""');
    expect(options.find((each) => each.displayLabel === 'case')?.label).toBe('"case"');
  });

  test('a colon offers parameters alone, a quote fields alone', () => {
    expect(offered('kilos >= :mi|')?.labels).toEqual([':min_kilos']);
    expect(offered('"ki|')?.labels).toEqual(['"kilos"', '"picked_on"', '"Net ""weight"""', '"case"']);
  });

  test('nothing is offered inside a text, nor where no word has begun unless it is asked for', () => {
    expect(offered("grade = 'ki|")).toBeNull();
    expect(offered("note = 'it''s ki|")).toBeNull();
    expect(offered("note = 'it''s' and ki|")?.labels).toContain('kilos');
    expect(offered('kilos + |')).toBeNull();
    expect(offered('kilos + |', true)?.labels).toContain('kilos');
  });

  test('a function is told with what it takes and gives, and once, however many ways it can be called', () => {
    const rounds = offered('rou|')?.options.filter((each) => each.label === 'round') ?? [];
    expect(rounds).toHaveLength(1);
    expect(rounds[0]).toMatchObject({ apply: 'round(', info: expect.stringMatching(/^Gives .+\.$/) as string });
    expect(rounds[0]?.detail).toMatch(/^\(.+\)/);
  });
});
