export type { TableLike, TextContext } from './looked-at';
export { NOTHING_AROUND } from './looked-at';
export { textFindings } from './text-findings';
