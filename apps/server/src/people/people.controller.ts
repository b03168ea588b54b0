import { Body, Controller, Get, HttpCode, Inject, Ip, Post, Req, Res } from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { InjectRepository } from '@nestjs/typeorm';
import type { Response } from 'express';
import { Repository } from 'typeorm';
import { AuditService } from '../audit/audit.service';
import type { Settings } from '../settings';
import { SETTINGS } from '../settings';
import type { PersonRequest } from './access';
import { Access, NeedsNoSource, SESSION_COOKIE } from './access';
import { DEMO_PEOPLE } from './demo-people';
import { DemoSignInDto, MeDto, PersonDto, SignInDto } from './person.dto';
import { Person } from './person.entity';
import { SignInService } from './sign-in.service';

@ApiTags('people')
@Controller()
export class PeopleController {
  constructor(
    private readonly signIns: SignInService,
    private readonly audit: AuditService,
    @InjectRepository(Person) private readonly people: Repository<Person>,
    @Inject(SETTINGS) private readonly settings: Settings,
  ) {}

  @Post('sign-in')
  @HttpCode(200)
  @Access('anyone')
  @ApiOkResponse({ type: MeDto })
  async signIn(@Body() body: SignInDto, @Ip() address: string, @Res({ passthrough: true }) response: Response): Promise<MeDto> {
    const { person, csrf, token } = await this.signIns.signIn(body.name, body.password, address);
    response.cookie(SESSION_COOKIE, token, { httpOnly: true, sameSite: 'strict', path: '/' });
    await this.audit.note(person, 'signed in', person.name);
    return { ...shown(person), csrf };
  }

  @Post('sign-out')
  @HttpCode(204)
  @NeedsNoSource()
  @Access('reader', 'analyst', 'steward')
  async signOut(@Req() request: PersonRequest, @Res({ passthrough: true }) response: Response): Promise<void> {
    await this.signIns.signOut((request.cookies as Record<string, string>)[SESSION_COOKIE] ?? '');
    response.clearCookie(SESSION_COOKIE, { path: '/' });
  }

  @Get('me')
  @NeedsNoSource()
  @Access('reader', 'analyst', 'steward')
  @ApiOkResponse({ type: MeDto })
  me(@Req() request: PersonRequest): MeDto {
    return { ...shown(request.person as Person), csrf: request.csrf ?? '' };
  }

  /** One sign-in per role, in demo mode only; an empty list otherwise. */
  @Get('demo-sign-ins')
  @Access('anyone')
  @ApiOkResponse({ type: [DemoSignInDto] })
  demoSignIns(): DemoSignInDto[] {
    return this.settings.demo
      ? DEMO_PEOPLE.filter((each) => each.offered).map(({ name, shownName, role, password }) => ({ name, shownName, role, password }))
      : [];
  }

  @Get('people')
  @NeedsNoSource()
  @Access('steward')
  @ApiOkResponse({ type: [PersonDto] })
  async list(): Promise<PersonDto[]> {
    return (await this.people.find({ order: { shownName: 'ASC' } })).map(shown);
  }
}

const shown = ({ id, name, shownName, role }: Person): PersonDto => ({ id, name, shownName, role });
