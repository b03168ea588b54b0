export * from './compile';
export * from './dialect';
export * from './duckdb';
export * from './levels';
export * from './postgresql';
export * from './postgresql/types';
export * from './relation';
