export * from './connectors/connector';
export { KeyDto, RelationDto } from './source.dto';
export * from './held-source';
export { RoutineDto, RoutineResultDto, RoutineSignatureDto, SaidDto } from './routine.dto';
export * from './routines.service';
export { seal, unseal } from './secret-box';
export * from './source.entity';
export * from './sources.service';
export * from './texts.service';
