export * from './layout';
export * from './lines';
export * from './check';
