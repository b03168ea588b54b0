import { Global, Module } from '@nestjs/common';
import { APP_GUARD } from '@nestjs/core';
import { TypeOrmModule } from '@nestjs/typeorm';
import { AccessGuard } from './access.guard';
import { PeopleController } from './people.controller';
import { Person } from './person.entity';
import { RightsClock } from './rights-clock';
import { Session } from './session.entity';
import { SignInService } from './sign-in.service';

@Global()
@Module({
  imports: [TypeOrmModule.forFeature([Person, Session])],
  controllers: [PeopleController],
  providers: [SignInService, RightsClock, { provide: APP_GUARD, useClass: AccessGuard }],
  exports: [SignInService, RightsClock, TypeOrmModule],
})
export class PeopleModule {}
