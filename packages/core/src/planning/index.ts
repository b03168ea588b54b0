export * from './asks';
export * from './counts';
export * from './plan';
export * from './push';
