export * from './field';
export * from './type';
export * from './type-shape';
export * from './repeated';
