export * from './counts';
export * from './inspections';
export * from './limit';
export * from './marks';
export * from './plan';
export * from './push';
export * from './relations';
export * from './shortened';
