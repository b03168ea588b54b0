export * from './engine';
export * from './messages';
export * from './result-store';
