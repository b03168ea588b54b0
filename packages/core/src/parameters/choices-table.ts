import type { Field } from '../fields';
import { readIn } from '../fields';
import type { ChoicesTable } from './parameter';

/** The columns of a table choices come from as fields, each told by its name. */
export const fieldsOfChoices = ({ columns }: ChoicesTable, zone: string | undefined): readonly Field[] =>
  columns.map(({ name, type }) => ({
    id: name,
    name,
    type: readIn(zone, type),
    role: 'attribute',
    origin: { step: '', column: name },
    forUseOnly: false,
  }));
