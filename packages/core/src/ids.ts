import { z } from 'zod';

/** The id of a step, field, item or parameter. Ids are keys of plain objects, where names every object has stand for something else. */
export const idShape = z
  .string()
  .min(1)
  .max(64)
  .refine((id) => !(id in Object.prototype), 'an id that is no name every object has');
