export * from './connectors/connector';
export * from './source.entity';
export * from './sources.service';
