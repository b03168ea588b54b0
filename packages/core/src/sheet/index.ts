export * from './aggregates';
export * from './check';
export * from './entry';
export * from './format';
export * from './link';
export * from './names';
export * from './sheet';
export * from './spreadsheet';
