export { Planner } from './planner.service';
export { PlanningModule } from './planning.module';
export { statementMade } from './statements';
export type { WriteStatement } from './statements';
export { subjectOf } from './subject';
export type { Subject } from './subject';
export type { RoutineToMake } from './routine-to-make';
export type { Answerable, Given, ShownRows } from './work';
