export * from './fixes';
export * from './why';
