export * from './connectors/connector';
export { KeyDto, RelationDto } from './source.dto';
export * from './held-source';
export * from './source.entity';
export * from './sources.service';
export * from './texts.service';
