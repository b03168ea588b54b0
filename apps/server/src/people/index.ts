export * from './access';
export * from './demo-people';
export * from './person.entity';
export * from './rights-clock';
