export * from './evidence';
export * from './expected-evidence';
export * from './join-at';
export * from './near-misses';
export * from './partner-ties';
export * from './proposals';
export * from './shares';
