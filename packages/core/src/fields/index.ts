export * from './field';
export * from './type';
