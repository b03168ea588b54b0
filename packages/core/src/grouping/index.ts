export * from './layout';
export { cellRowsColumn, keyColumn, LINE, LINE_KINDS, markColumn, proofRelations, totalColumn, valuesColumn } from './lines';
export type { LineKind, ProofRelations } from './lines';
export * from './across';
export * from './check';
export * from './chart';
export { ALIKE_MOST, proofFindings, proofLooks } from './looks';
export type { Looks } from './looks';
