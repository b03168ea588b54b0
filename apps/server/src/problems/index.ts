export * from './own-database';
export * from './problem.dto';
export * from './problem.exception';
export * from './problem.filter';
export * from './unreadable';
export * from './validation';
