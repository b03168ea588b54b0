import { Injectable } from '@nestjs/common';
import { InjectDataSource, InjectRepository } from '@nestjs/typeorm';
import { allowedProblem } from '@cendra/core';
import { DataSource, Repository } from 'typeorm';
import { ProblemException } from '../problems';
import { AllowedAddress } from './allowed-address.entity';

/** Where links of rows may lead to. */
@Injectable()
export class LinksService {
  constructor(
    @InjectRepository(AllowedAddress) private readonly addresses: Repository<AllowedAddress>,
    @InjectDataSource() private readonly database: DataSource,
  ) {}

  /** The beginnings a steward allowed, in the order they were said in. */
  async allowed(): Promise<readonly string[]> {
    return (await this.addresses.find({ order: { place: 'ASC' } })).map((each) => each.beginning);
  }

  /** Says all of them anew. One that leaves open where it leads to is refused, at its place. */
  async allow(beginnings: readonly string[]): Promise<readonly string[]> {
    const wanted = [...new Set(beginnings.map((each) => each.trim()))];
    const problems = wanted.flatMap((each, at) => {
      const found = allowedProblem(each);
      return found ? [{ ...found, place: { pointer: `/beginnings/${at}` } }] : [];
    });
    if (problems.length > 0) throw new ProblemException(422, problems);
    await this.database.transaction(async (work) => {
      await work.deleteAll(AllowedAddress);
      await work.insert(
        AllowedAddress,
        wanted.map((beginning, place) => ({ beginning, place })),
      );
    });
    return wanted;
  }
}
