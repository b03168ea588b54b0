import { Injectable } from '@nestjs/common';
import type { Definition, SheetField } from '@cendra/core';
import { checkTrail, handedOver } from '@cendra/core';
import type { Person } from '../people';
import { refused } from '../problems';
import { DatasetsService } from './datasets.service';

export interface Sheet {
  readonly definition: Definition;
  readonly fields: readonly SheetField[];
}

/** What a dataset's field sheet says at a revision, for those who may see its values. */
@Injectable()
export class SheetService {
  constructor(private readonly datasets: DatasetsService) {}

  async of(person: Person, dataset: string, revision: number): Promise<Sheet> {
    const { definition } = await this.datasets.definition(dataset, revision);
    if (!(await this.datasets.mayUse(person, definition)))
      throw refused(403, 'source-missing', 'You lack a source this dataset reads.', {}, 'a steward who gives you the source');
    return { definition, fields: handedOver(checkTrail(definition)) };
  }
}
