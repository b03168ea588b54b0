import type { SheetField } from '../sheet';
import { mayFollow, withAllowedLinks } from '../sheet';
import type { Layout } from './layout';

/** A layout and its fields with the links that may be followed, of values and of rows. */
export function withFollowed<L extends Layout>(
  { link, ...layout }: L,
  fields: readonly SheetField[],
  allowed: readonly string[],
): { readonly layout: L; readonly fields: readonly SheetField[] } {
  const leads = mayFollow(link, fields, allowed) ? { link } : {};
  return { layout: { ...layout, ...leads } as L, fields: withAllowedLinks(fields, allowed) };
}
