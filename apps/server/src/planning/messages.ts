import type { Problem, WireRow } from '@cendra/core';
import type { Asked, WorkName } from './work';

export type ToThread =
  | { readonly id: number; readonly say: 'begin'; readonly work: WorkName; readonly given: object }
  | { readonly id: number; readonly say: 'rows'; readonly rows: readonly WireRow[] }
  | { readonly id: number; readonly say: 'drop' };

/** To each of begin and rows exactly one. */
export type FromThread =
  | { readonly id: number; readonly say: 'ask'; readonly asked: Asked }
  | { readonly id: number; readonly say: 'answer'; readonly answer: unknown }
  | { readonly id: number; readonly say: 'refuse'; readonly problems: readonly Problem[] }
  | { readonly id: number; readonly say: 'too deep' }
  | { readonly id: number; readonly say: 'fail'; readonly message: string };
