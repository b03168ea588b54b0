import { postgresqlKind } from './postgresql';
import type { SourceKind } from './source-kind';

export type { Entered, SettingEntry, SourceKind } from './source-kind';

/** One line per kind of source; the first is what a new source begins as. */
export const SOURCE_KINDS: readonly [SourceKind, ...SourceKind[]] = [postgresqlKind as SourceKind];

/** How sources of a kind are told; a kind this page does not know yet is told by its name on the wire. */
export const sourceKind = (kind: string): SourceKind | undefined => SOURCE_KINDS.find((each) => each.kind === kind);
