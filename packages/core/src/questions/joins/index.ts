export * from './evidence';
export * from './join-at';
export * from './near-misses';
export * from './proposals';
export * from './shares';
