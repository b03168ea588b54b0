export * from './connectors/connector';
export { KeyDto, RelationDto } from './source.dto';
export * from './held-source';
export { RoutineDto, RoutineResultDto, SaidDto } from './routine.dto';
export * from './routines.service';
export * from './source.entity';
export * from './sources.service';
export * from './texts.service';
