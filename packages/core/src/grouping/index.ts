export * from './layout';
export { cellRowsColumn, keyColumn, LINE, LINE_KINDS, markColumn, proofRelations, totalColumn, valuesColumn } from './lines';
export type { LineKind, ProofRelations } from './lines';
export * from './across';
export * from './check';
export * from './chart';
