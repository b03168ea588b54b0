export interface TableAddress {
  readonly source: string;
  readonly schema: string;
  readonly table: string;
}

const KEPT_AS = 'recent-tables';
const MOST = 6;

export const sameTable = (a: TableAddress, b: TableAddress): boolean =>
  a.source === b.source && a.schema === b.schema && a.table === b.table;

/** The tables this browser began datasets from last, newest first. */
export function recentTables(): readonly TableAddress[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEPT_AS) ?? '[]');
    return Array.isArray(kept) ? kept.filter(isAddress).slice(0, MOST) : [];
  } catch {
    return [];
  }
}

export function rememberTable(used: TableAddress): void {
  localStorage.setItem(KEPT_AS, JSON.stringify([used, ...recentTables().filter((each) => !sameTable(each, used))].slice(0, MOST)));
}

function isAddress(given: unknown): given is TableAddress {
  const { source, schema, table } = (given ?? {}) as Record<string, unknown>;
  return [source, schema, table].every((each) => typeof each === 'string');
}
