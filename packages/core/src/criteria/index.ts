export * from './active';
export * from './check';
export * from './clause';
export * from './mentions';
export * from './operators';
export * from './sentence';
export * from './uses';
export * from './written';
