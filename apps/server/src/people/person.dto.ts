import { ApiProperty } from '@nestjs/swagger';
import { IsString, MaxLength, MinLength } from 'class-validator';
import type { PersonRole } from './person.entity';
import { ROLES } from './person.entity';

export class SignInDto {
  @ApiProperty() @IsString() @MinLength(1) @MaxLength(200) name!: string;
  @ApiProperty() @IsString() @MinLength(1) @MaxLength(200) password!: string;
}

export class PersonDto {
  @ApiProperty() id!: string;
  @ApiProperty() name!: string;
  @ApiProperty() shownName!: string;
  @ApiProperty({ enum: ROLES }) role!: PersonRole;
}

/** The signed-in person, and the token that every change has to carry. */
export class MeDto extends PersonDto {
  @ApiProperty() csrf!: string;
}

export class DemoSignInDto {
  @ApiProperty() name!: string;
  @ApiProperty() shownName!: string;
  @ApiProperty({ enum: ROLES }) role!: PersonRole;
  @ApiProperty() password!: string;
}
