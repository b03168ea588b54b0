export * from './check';
export * from './kept';
export * from './overlooking';
export * from './pair';
export * from './words';
export * from './written';
