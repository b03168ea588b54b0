import { Body, Controller, Get, Put } from '@nestjs/common';
import { ApiOkResponse, ApiProperty, ApiTags } from '@nestjs/swagger';
import { ArrayMaxSize, IsArray, IsString, MaxLength, MinLength } from 'class-validator';
import { ALLOWED_LENGTH, ALLOWED_MOST } from '@cendra/core';
import { AuditService } from '../audit/audit.service';
import { Access, NeedsNoSource, Person, SignedInPerson } from '../people';
import { LinksService } from './links.service';

class AllowedAddressesDto {
  @ApiProperty({ type: [String] })
  @IsArray()
  @ArrayMaxSize(ALLOWED_MOST)
  @IsString({ each: true })
  @MinLength(1, { each: true })
  @MaxLength(ALLOWED_LENGTH, { each: true })
  beginnings!: string[];
}

@ApiTags('links')
@Controller('links')
@NeedsNoSource()
export class LinksController {
  constructor(
    private readonly links: LinksService,
    private readonly audit: AuditService,
  ) {}

  @Get('allowed')
  @Access('analyst', 'steward')
  @ApiOkResponse({ type: AllowedAddressesDto })
  async allowed(): Promise<AllowedAddressesDto> {
    return { beginnings: [...(await this.links.allowed())] };
  }

  /** Says where links of rows may lead to: all beginnings, in their order. */
  @Put('allowed')
  @Access('steward')
  @ApiOkResponse({ type: AllowedAddressesDto })
  async allow(@SignedInPerson() person: Person, @Body() { beginnings }: AllowedAddressesDto): Promise<AllowedAddressesDto> {
    const allowed = await this.links.allow(beginnings);
    await this.audit.note(person, 'said where links may lead', 'links', { beginnings: allowed });
    return { beginnings: [...allowed] };
  }
}
