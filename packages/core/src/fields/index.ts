export * from './field';
export * from './type';
export * from './repeated';
