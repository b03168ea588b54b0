export * from './calendar';
export * from './decimal';
export * from './value';
