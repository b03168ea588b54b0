import { Injectable } from '@nestjs/common';
import { valuesText } from '@cendra/core';
import type { HeldDatasetOf } from '../datasets';
import type { About } from '../engine';
import type { Person } from '../people';
import { Planner, subjectOf } from '../planning';
import { ProofService } from '../proof/proof.service';
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
      ...parameters.map((each) => [`:${each.name}`, valuesText(each, values[each.id] ?? each.startsAs)] as const),
      ...(found.length === 0 ? [['Findings', 'none'] as const] : found.map(({ message }) => ['Finding', message] as const)),
    ];
  }
}
