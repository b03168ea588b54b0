import { applyDecorators } from '@nestjs/common';
import { IsInt, Max, Min, ValidateIf } from 'class-validator';

/** May be left out, and then nothing else is asked of it. Null is not left out. */
export const MayBeLeftOut = () => ValidateIf((_object, value: unknown) => value !== undefined);

/** The largest number the own database has for counts, places and revisions. */
const MOST = 2_147_483_647;

export const WholeNumber = (least: number, most = MOST) => applyDecorators(IsInt(), Min(least), Max(most));
