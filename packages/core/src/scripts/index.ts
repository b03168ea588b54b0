export * from './changes';
export * from './told';
