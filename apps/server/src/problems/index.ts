export * from './own-database';
export * from './own-disk';
export * from './problem.dto';
export * from './problem.exception';
export * from './problem.filter';
export * from './unreadable';
export * from './taken-in';
export * from './validation';
