import { Budget } from '../expressions';
import type { Field } from '../fields';
import { recogniseRole } from '../fields';
import type { Parameter } from '../parameters';
import type { Span } from '../problem';
import type { Parse } from '../statements';
import { inPlace, membersOf, parametersIn, saying as sayingWords, statementsIn, tokensOf, wordAt } from '../statements';
import type { CatalogueEntry, DescribedPart, ReadTable, SqlStep, Step } from '../steps';
import { catalogueOf, parametersNamed, sqlStep, sqlText } from '../steps';
import type { Calendar } from '../values';
import type { Query } from './from';
import { handingOn } from './handing-on';
import { sayQuery } from './query';
import { Saying } from './saying';
import type { StaysFor } from './staying';
import { Unsaid } from './unsaid';

/** A text to be said in steps, and what is known around it. Plain data, so that a worker can be given it. */
export interface TextToSay {
  readonly step: SqlStep;
  readonly parameters: readonly Parameter[];
  readonly calendar: Calendar;
  /** The tables of its source that it names, as they are. */
  readonly tables: readonly (ReadTable & CatalogueEntry)[];
  /** Parameters that other steps of the dataset ask with, by id. */
  readonly usedElsewhere: readonly string[];
  /** Parts that stay SQL, as far as the source has described them. */
  readonly described: readonly DescribedPart[];
}

/** A part of a text that no step says. */
export interface StaysSql {
  readonly words: string;
  readonly because: string;
  /** Where in the text, where that is known. */
  readonly position?: Span;
}

export type SaidText =
  | {
      readonly kind: 'said';
      readonly steps: readonly Step[];
      readonly result: string;
      /** By column of the text, the field it is now. */
      readonly fields: readonly Field[];
      readonly stays: readonly StaysSql[];
      /** Parameters that switch their condition off when they are blank, as the text did itself, and have not so far; by id. */
      readonly off: readonly string[];
    }
  /** Nothing can be said, or nothing is left to say once the rest stays SQL. */
  | { readonly kind: 'unsaid'; readonly stays: readonly StaysSql[] }
  /** The source is asked what such a text gives; then it is said once more. */
  | { readonly kind: 'asks'; readonly text: string };

class Asks extends Error {
  constructor(readonly text: string) {
    super('a part has to be described');
  }
}

/** A text in steps that give the same rows; what has no step stays SQL. It never throws, but for a text nested deeper than its stack. */
export function sayText(given: TextToSay, parse: Parse, mint: () => string): SaidText {
  const { step, tables, parameters, calendar } = given;
  const { text } = step.sql;
  const [statement, second] = statementsIn(tokensOf(text));
  const whole = (because: string, position?: Span): SaidText => ({
    kind: 'unsaid',
    stays: [{ words: text.trim(), because, ...(position ? { position } : {}) }],
  });
  if (!statement || second) return whole('It is not one statement.');
  const form = inPlace(text, statement);
  const parsed = parse(form);
  const select = parsed.ok ? membersOf(parsed.statements[0]?.tree, 'SelectStmt') : undefined;
  if (!select) return whole('It cannot be read.');
  const catalogue = catalogueOf(
    tables.map((each) => ({
      source: step.source,
      schema: each.schema,
      table: each.name,
      columns: each.columns,
      keys: each.keys,
      relations: each.relations,
      state: 'known',
    })),
  );
  const saying = new Saying({
    context: { parameters, calendar, catalogue, budget: new Budget() },
    mint,
    source: step.source,
    tables,
    form,
    places: parametersIn(text),
    parameters: parametersNamed(step.sql, parameters),
    usedElsewhere: given.usedElsewhere,
  });
  const stayed: { readonly step: string; readonly parts: readonly StaysSql[] }[] = [];
  const placed = ({ because, location }: Unsaid) => ({
    because,
    ...(location === undefined ? {} : { position: wordAt(text, saying.at(location)) }),
  });
  const stay = (sql: string, because: readonly StaysFor[]): Query => {
    const described = given.described.find((each) => each.text === sql);
    if (!described) throw new Asks(sql);
    const fields = described.fields.map((each) => ({
      ...each,
      id: mint(),
      role: recogniseRole({ ...each, primaryKey: false, foreignKey: false, unique: false }),
    }));
    const rows = saying.put({ ...sqlStep(mint, step.source, sqlText(sql, saying.of.parameters)), fields, met: described.met });
    stayed.push({ step: rows.step, parts: because.map(({ words, why }) => ({ words, ...placed(why) })) });
    return { rows, columns: fields.map(({ id, name }) => ({ name, field: id })) };
  };
  try {
    const names = step.fields.map((each) => each.name);
    const query = sayQuery(select, sayingWords(statement.tokens), { saying, text, tables: new Map(), head: '', names, stay });
    const fields = query.columns.flatMap(({ field }) => query.rows.arriving.schema.fields.find(({ id }) => id === field) ?? []);
    // Ways that were tried and given up left no step.
    const kept = stayed.filter(({ step: id }) => saying.steps.some((each) => each.id === id));
    const stays = kept.flatMap(({ parts }) => parts);
    if (kept.length === saying.steps.length) return { kind: 'unsaid', stays };
    const handed = handingOn(
      { steps: saying.steps, result: query.rows.step },
      fields.map((each) => each.id),
      { parameters, calendar },
      mint,
    );
    return { kind: 'said', ...handed, fields, stays, off: saying.off };
  } catch (error) {
    if (error instanceof Asks) return { kind: 'asks', text: error.text };
    if (!(error instanceof Unsaid)) throw error;
    const { because, position } = { position: undefined, ...placed(error) };
    return whole(because, position);
  }
}
