import { Injectable } from '@nestjs/common';
import type { Answers, Question } from '@cendra/core';
import { checkedStep, needsEveryInput, questionShape, stepOfQuestion } from '@cendra/core';
import type { HeldDatasetOf } from '../datasets';
import type { Person } from '../people';
import { ProblemException, refused } from '../problems';
import type { QuestionDto } from './question.dto';
import { SourcesService } from '../sources';
import type { Prepared, WireValues } from './preparing.service';
import { PreparingService } from './preparing.service';

@Injectable()
export class AnswersService {
  constructor(
    private readonly preparing: PreparingService,
    private readonly sources: SourcesService,
  ) {}

  /** The answer to a question about a dataset the person holds, at one moment of each source. */
  async answer(person: Person, held: HeldDatasetOf, given: QuestionDto, signal: AbortSignal): Promise<object> {
    return this.ask(person, held, readQuestion(given.question), given.values, signal);
  }

  /** The same of a question that was made here. */
  async ask<Q extends Question>(
    person: Person,
    held: HeldDatasetOf,
    question: Q,
    values: WireValues,
    signal: AbortSignal,
  ): Promise<Answers[Q['kind']]> {
    const prepared = await this.preparing.prepare(person, held, values, signal);
    requireAnswerable(prepared, question);
    const context = await this.preparing.contextOf(person, prepared);
    const leave = await this.sources.enter(person, [...context.sources.keys()], signal);
    try {
      return await this.preparing.answer(context, question, signal);
    } finally {
      leave();
    }
  }
}

/** Choices can be asked for while other values are still missing; rows after criteria cannot. */
function requireAnswerable({ trail, binding }: Prepared, question: Question): void {
  const step = stepOfQuestion(question);
  if (step === undefined) return;
  const checked = checkedStep(trail, step);
  if (!checked) throw refused(404, 'step-gone', 'This step is not in the dataset.', { step });
  const inputs = checked.step.inputs.flatMap((each) => each ?? []);
  const ofItself = ['clauses', 'follow', 'text', 'every value'].includes(question.kind);
  const first = inputs.slice(0, needsEveryInput(question) ? undefined : 1).flatMap((each) => checkedStep(trail, each) ?? []);
  const before = ofItself || first.length === 0 ? [checked] : first;
  if (before.some((each) => each.blocked))
    throw new ProblemException(
      422,
      trail.problems.filter((each) => each.severity === 'error'),
    );
  if (binding.problems.length > 0) throw new ProblemException(422, binding.problems);
}

function readQuestion(given: object): Question {
  const read = questionShape.safeParse(given);
  if (read.success) return read.data;
  const [issue] = read.error.issues;
  throw refused(
    400,
    'question-wrong',
    'What is asked is not as it should be.',
    { pointer: `/question/${issue?.path.join('/') ?? ''}` },
    issue?.message,
  );
}
