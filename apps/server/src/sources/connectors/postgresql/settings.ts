import { ApiProperty } from '@nestjs/swagger';
import { IsIn, IsInt, IsString, Matches, Max, MaxLength, Min, MinLength } from 'class-validator';

const TLS = ['off', 'required', 'verified'] as const;

/** Where a PostgreSQL database is, and who reads there. */
export class PostgresqlSettings {
  @ApiProperty()
  @IsString()
  @MinLength(1)
  @MaxLength(255)
  @Matches(/^[^\s/]+$/, { message: 'a host name or address without blanks' })
  readonly host!: string;
  @ApiProperty() @IsInt() @Min(1) @Max(65_535) readonly port!: number;
  @ApiProperty() @IsString() @MinLength(1) @MaxLength(63) readonly database!: string;
  @ApiProperty() @IsString() @MinLength(1) @MaxLength(63) readonly user!: string;
  @ApiProperty({ enum: TLS }) @IsIn(TLS) readonly tls!: (typeof TLS)[number];
}

export const loginOf = ({ host, port, database, user }: PostgresqlSettings) => `${user}@${host}:${port}/${database}`;

export const secretGoesTo = ({ host, port, database, user, tls }: PostgresqlSettings) => `${user}@${host}:${port}/${database} ${tls}`;

/** By what was typed: told before anything is connected. What counts is what the database says of itself once it is. */
export function isAt(settings: PostgresqlSettings, address: string): boolean {
  const other = new URL(address);
  if (Number(other.port) !== settings.port || decodeURIComponent(other.pathname.slice(1)) !== settings.database) return false;
  return other.hostname === settings.host || (isLoopback(other.hostname) && isLoopback(settings.host));
}

const isLoopback = (host: string) => host === 'localhost' || host === '::1' || host.startsWith('127.');
