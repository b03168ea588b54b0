export * from './compile';
export * from './dialect';
export * from './duckdb';
export * from './join';
export * from './levels';
export * from './postgresql';
export * from './relation';
export * from './shown-dialect';
