import type { FieldId } from '../fields';
import type { Column } from './relation';

/** Field names as they are, made different where two fields share one. */
export function aliases(columns: readonly Column[]): ReadonlyMap<FieldId, string> {
  const used = new Set<string>();
  return new Map(
    columns.map(({ id, name }) => {
      let alias = name;
      for (let count = 2; used.has(alias); count++) alias = `${name} ${count}`;
      used.add(alias);
      return [id, alias];
    }),
  );
}

/** The beginning of a name that fits into so many bytes of UTF-8, in whole characters; of none that says nothing. */
export function cutBytes(name: string, bytes: number): string {
  const kept: string[] = [];
  let size = 0;
  for (const char of name.trim() === '' ? 'step' : name) {
    const point = char.codePointAt(0) ?? 0;
    size += point < 0x80 ? 1 : point < 0x800 ? 2 : point < 0x10000 ? 3 : 4;
    if (size > bytes) break;
    kept.push(char);
  }
  return kept.join('');
}
