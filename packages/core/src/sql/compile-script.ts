import type { Binding } from '../parameters';
import type { Moved, TextValue } from '../statements';
import type { Dialect } from './dialect';
import type { ScriptPart, SessionCall } from './relation';
import type { BoundValue } from './write-expressions';
import { Expressions } from './write-expressions';

/** What runs in a session before anything is asked of it. */
export interface Script {
  readonly session: string;
  readonly statements: readonly ScriptStatement[];
}

/** A statement of a script. `values[n-1]` is what place n reads. */
export interface ScriptStatement {
  readonly step: string;
  /** Counted from 1. */
  readonly number: number;
  readonly text: string;
  readonly values: readonly BoundValue[];
  /** Where it stands in the script's text, and where what stands at an offset of `text` comes from. */
  readonly from: number;
  readonly to: number;
  readonly moved: readonly Moved[];
  /** As it has to be looked at before it runs: `$1`, `$2` … in the place of values. */
  readonly looked: MovedText;
  readonly call?: SessionCall;
}

/** A text made of another one, and where in that one its offsets come from. */
export interface MovedText {
  readonly text: string;
  readonly moved: readonly Moved[];
}

/** The statements of a script as its engine runs them, one after the other. */
export const compileScript = (
  step: string,
  parts: readonly ScriptPart[],
  dialect: Dialect,
  binding: Pick<Binding, 'bound' | 'now'>,
): readonly ScriptStatement[] => parts.map((each) => scriptStatement(step, each, new Expressions(dialect, binding)));

function scriptStatement(step: string, { number, from, to, parts, of, call }: ScriptPart, expressions: Expressions): ScriptStatement {
  let count = 0;
  const sent = placed(parts, (each) => expressions.textValue(each));
  const looked = placed(parts, ({ as }) => `$${++count}::${as}`);
  return { step: of ?? step, number, ...sent, values: expressions.values, from, to, looked, ...(call ? { call } : {}) };
}

function placed(parts: ScriptPart['parts'], written: (value: TextValue) => string): MovedText {
  const moved: Moved[] = [];
  let text = '';
  for (const { part, at } of parts) {
    moved.push({ out: text.length, text: at });
    text += typeof part === 'string' ? part : written(part);
  }
  return { text, moved };
}
