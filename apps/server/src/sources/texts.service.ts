import { Injectable } from '@nestjs/common';
import type { Parameter } from '@cendra/core';
import { describable, offsetBack, problem, statementsIn, tokensOf } from '@cendra/core';
import { ProblemException } from '../problems';
import type { Source } from './source.entity';
import { SourcesService } from './sources.service';
import type { DescribedTextDto } from './text.dto';

/** What sources say of texts written for them, without running them. */
@Injectable()
export class TextsService {
  constructor(private readonly sources: SourcesService) {}

  /** A text that is wrong is an answer as well: what is wrong with it, and where. */
  async describe(source: Source, text: string, parameters: readonly Pick<Parameter, 'name' | 'type'>[]): Promise<DescribedTextDto> {
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
      const met = numbered.flatMap(({ sourceType, type }, at) => {
        const name = asked.places[at]?.name;
        return name === undefined ? [] : [{ name, sourceType, type }];
      });
      return { columns, met, problems: [] };
    } catch (error) {
      if (!(error instanceof ProblemException) || error.getStatus() !== 422) throw error;
      const { detail } = error;
      const problems = error.problems.map(({ place, ...own }) => {
        const each = detail === undefined ? own : { ...own, detail };
        const { position } = place;
        if (!position) return { ...each, place };
        const back = { from: offsetBack(asked.moved, position.from), to: offsetBack(asked.moved, position.to) };
        return { ...each, place: { ...place, position: back } };
      });
      return { columns: [], met: [], problems };
    }
  }
}
