export * from './build';
export * from './check';
export * from './definition';
export * from './edit-sentences';
export * from './edits';
export * from './evaluate';
export * from './sentence';
