import { Injectable } from '@nestjs/common';
import type { Parameter, ScriptAct } from '@cendra/core';
import { describable, offsetBack, problem, STATEMENTS_MOST, statementsIn, tokensOf } from '@cendra/core';
import { ProblemException } from '../problems';
import type { Source } from './source.entity';
import { SourcesService } from './sources.service';
import type { DescribedTextDto } from './text.dto';

/** What sources say of texts written for them, without running them. */
@Injectable()
export class TextsService {
  constructor(private readonly sources: SourcesService) {}

  /** A text that is wrong is an answer as well: what is wrong with it, and where. */
  async describe(source: Source, text: string, parameters: Parameters): Promise<DescribedTextDto> {
    const statements = statementsIn(tokensOf(text));
    const [statement] = statements;
    if (!statement || statements.length > 1) {
      const wrong = statement
        ? problem('statements-several', `There are ${statements.length} statements in this text.`)
        : problem('text-empty', 'There is no statement in this text.');
      return { columns: [], met: [], problems: [{ ...wrong, expected: 'one statement' }] };
    }
    const asked = describable(text, statement, parameters);
    try {
      const { columns, parameters: numbered } = await this.sources.describeText(
        source,
        asked.text,
        asked.places.map((each) => each.type),
      );
      return { columns, met: metOf(numbered, asked.places), problems: [] };
    } catch (error) {
      return { columns: [], met: [], problems: saidOf(error, (offset) => offsetBack(asked.moved, offset)) };
    }
  }

  /** The same of a script, whose places are told in all of it; the texts of others run in its session before. */
  async describeScript(source: Source, text: string, parameters: Parameters, before: readonly string[] = []): Promise<DescribedTextDto> {
    const { acts: _acts, ...described } = await this.scriptSaid(source, text, parameters, before);
    return described;
  }

  /** A text or script with what each statement of a script does. */
  acts(source: Source, text: string, script: boolean, parameters: Parameters): Promise<ActingText> {
    return script ? this.scriptSaid(source, text, parameters) : this.describe(source, text, parameters);
  }

  private async scriptSaid(source: Source, text: string, parameters: Parameters, before: readonly string[] = []): Promise<ActingText> {
    const statements = statementsIn(tokensOf(text));
    const wrong =
      statements.length === 0
        ? problem('text-empty', 'There is no statement in this text.', {}, 'statements, of which the last gives the rows')
        : statements.length > STATEMENTS_MOST
          ? tooMany(statements.length)
          : undefined;
    if (wrong) return { columns: [], met: [], problems: [wrong] };
    const own = toDescribe('', text, parameters);
    const earlier = before.flatMap((each) => toDescribe(BEFORE, each, parameters));
    if (earlier.length + own.length > STATEMENTS_MOST) return { columns: [], met: [], problems: [tooMany(earlier.length + own.length)] };
    try {
      const { columns, parameters: numbered, acts } = await this.sources.describeScript(source, [...earlier, ...own]);
      // What parameters meet before is told of the scripts they stand in there.
      const skipped = earlier.reduce((sum, each) => sum + each.types.length, 0);
      const met = metOf(
        numbered.slice(skipped),
        own.flatMap((each) => each.places),
      );
      if (columns.length > 0) return { columns, met, problems: [], ...(acts ? { acts } : {}) };
      const { from, to } = statements.at(-1) ?? { from: 0, to: 0 };
      const none = problem('script-without-rows', 'The last statement gives no rows.', { position: { from, to } }, 'a select at the end');
      return { columns: [], met, problems: [none] };
    } catch (error) {
      return { columns: [], met: [], problems: saidOf(error, (offset) => offset) };
    }
  }
}

type Parameters = readonly Pick<Parameter, 'name' | 'type'>[];

/** Stands for the step of statements that run before the script that is described. */
const BEFORE = 'before';

const tooMany = (statements: number) =>
  problem('statements-several', `There are ${statements} statements in this text.`, {}, `at most ${STATEMENTS_MOST}`);

function toDescribe(step: string, text: string, parameters: Parameters) {
  return statementsIn(tokensOf(text)).map((statement, at) => {
    const { text: asked, places, moved } = describable(text, statement, parameters);
    const { from, to } = statement;
    return { step, number: at + 1, text: asked, types: places.map((each) => each.type), places, from, to, moved };
  });
}

export type ActingText = DescribedTextDto & { readonly acts?: readonly ScriptAct[] };

type Numbered = Awaited<ReturnType<SourcesService['describeText']>>['parameters'];

/** What parameters meet, by their names, in the order of their places. */
const metOf = (numbered: Numbered, places: readonly { readonly name: string }[]): DescribedTextDto['met'] =>
  numbered.flatMap(({ sourceType, type }, at) => {
    const name = places[at]?.name;
    return name === undefined ? [] : [{ name, sourceType, type }];
  });

/** What a source finds wrong with a text, with places in the text as it was typed; whatever else went wrong is thrown. */
function saidOf(error: unknown, back: (offset: number) => number): DescribedTextDto['problems'] {
  if (!(error instanceof ProblemException) || error.getStatus() !== 422) throw error;
  const { detail } = error;
  return error.problems.map(({ place, ...own }) => {
    if (place.step === BEFORE) return { ...own, message: `In the script before, ${own.message}`, place: {} };
    const each = detail === undefined ? own : { ...own, detail };
    const { position } = place;
    if (!position) return { ...each, place };
    return { ...each, place: { ...place, position: { from: back(position.from), to: back(position.to) } } };
  });
}
