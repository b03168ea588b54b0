import { Injectable } from '@nestjs/common';
import type { GivenValues, Parameter } from '@cendra/core';
import { valuesText } from '@cendra/core';
import type { HeldDatasetOf } from '../datasets';
import type { About } from '../engine';
import type { Person } from '../people';
import { Planner, subjectOf } from '../planning';
import { ProofService } from '../proof/proof.service';
import { recordedCount } from '../runs/recorded-values';
import type { Result } from '../runs/result.entity';
import { RunRecordsService } from '../runs/run-records.service';

/** What a spreadsheet says of a proof besides: the values its rows were got with, and what is found in the dataset and in them. */
@Injectable()
export class AboutService {
  constructor(
    private readonly records: RunRecordsService,
    private readonly planner: Planner,
    private readonly proofs: ProofService,
  ) {}

  async of(person: Person, result: Result, held: HeldDatasetOf, signal: AbortSignal): Promise<About> {
    const { parameters } = held.definition;
    const values = await this.records.valuesOf(result.id);
    const { problems, steps } = await this.planner.outline(subjectOf(held.definition, []), signal);
    const inRows = await this.proofs.findings(person, result, held, signal);
    const found = [...problems, ...steps.flatMap((each) => each.problems), ...inRows].filter(({ severity }) => severity !== 'hint');
    return [
      ...parameters.map((each) => [`:${each.name}`, usedWords(each, values)] as const),
      ...(found.length === 0 ? [['Findings', 'none'] as const] : found.map(({ message }) => ['Finding', message] as const)),
    ];
  }
}

/** The value rows were got with, in words. What is not on record is not guessed: a private one never is. */
function usedWords(parameter: Parameter, { [parameter.id]: used }: GivenValues): string {
  if (parameter.isPrivate) return 'private';
  if (!used) return 'not on record';
  const count = recordedCount(used);
  return count === undefined ? valuesText(parameter, used) : `${count} values`;
}
