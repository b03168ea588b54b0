export * from './bind';
export * from './choices-table';
export * from './in-words';
export * from './limits';
export * from './parameter';
export { dayOfMoment } from './read';
export * from './relative';
export * from './shape';
