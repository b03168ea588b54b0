export * from './access';
export * from './demo-people';
export * from './person.entity';
