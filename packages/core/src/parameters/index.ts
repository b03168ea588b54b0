export * from './bind';
export * from './parameter';
