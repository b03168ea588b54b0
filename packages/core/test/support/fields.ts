import type { Field, FieldType, Role } from '../../src';

/** A field as a table hands it over, under its id where it is called nothing else. */
export const handed = (id: string, type: FieldType, role: Role, name = id): Field => ({
  id,
  name,
  type,
  role,
  origin: { step: 't', column: id },
  forUseOnly: false,
});
