export { csvName } from './csv-name';
export * from './engine';
export * from './gate';
export * from './messages';
export * from './result-store';
export { partName } from './stored-rows';
