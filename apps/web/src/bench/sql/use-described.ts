import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { ConvertedText, DescribedText, Problem, SqlField, TextStep, TextTakenOver } from '@cendra/core';
import { convertEdits, statementsIn, takeTextOver, takingOver, textEdit, tokensOf, usersOf } from '@cendra/core';
import { api } from '../../api';
import type { Failure } from '../../api/problem';
import { failureOf } from '../../api/problem';
import { useAppDispatch } from '../../app/store';
import { mint } from '../mint';
import type { Bench } from '../use-bench';
import { tablesAround } from './tables-around';

/** How long typing has to rest before the text is kept and its source asked about it. */
const REST_MS = 450;

export interface Described {
  readonly text: string;
  type(text: string): void;
  /** Keeps what was typed at once, without waiting for typing to rest. */
  keep(): void;
  /** Takes a text over in which parameters of another notation are ours. */
  convert(converted: ConvertedText): void;
  /** What its source finds wrong with the text as it stands here. */
  readonly problems: readonly Problem[];
  /** What its parameters met when it was described last. */
  readonly met: DescribedText['met'];
  readonly asking: boolean;
  /** The source could not be asked; what is known of it goes on. */
  readonly failure: Failure | undefined;
  /** Columns the source has now that are not taken over, because something is to be said first. */
  readonly pending: Pending | undefined;
}

/** A text as it is described now, waiting for a word about it. */
export interface Pending {
  readonly over: TextTakenOver;
  /** Fields that are gone and used further on; each may be one of the fresh ones under another name. */
  readonly used: readonly SqlField[];
  /** What is other than it was taken over, in words. */
  readonly changes: readonly string[];
  take(renamed: ReadonlyMap<string, string>): void;
}

const NOTHING_MET: DescribedText['met'] = [];

interface Answer {
  readonly text: string;
  readonly described: DescribedText;
  readonly problems: readonly Problem[];
}

/**
 * The text while it is written: kept when typing rests, described by its source, and its fields taken over. What runs in its
 * session `before` it is told with it.
 */
export function useDescribed(bench: Bench, step: TextStep, before?: readonly string[]): Described {
  const kept = step.sql.text;
  const [text, setText] = useState(kept);
  const own = useRef(new Set<string>());
  const [answer, setAnswer] = useState<Answer>();
  /** The answer whose columns were taken over. */
  const [taken, setTaken] = useState<Answer>();
  const [typedHere, setTypedHere] = useState(false);
  const dispatch = useAppDispatch();
  const [describe, { isLoading, error, reset }] = api.useTextsDescribeMutation();
  const latest = useRef({ bench, step });
  useEffect(() => {
    latest.current = { bench, step };
  });

  // Undo, another tab or another person changed it; what was typed here comes back too, and is no news.
  const [known, setKnown] = useState(kept);
  if (known !== kept) {
    setKnown(kept);
    if (!own.current.delete(kept)) setText(kept);
  }

  const keep = useCallback((typed: string) => {
    const { bench: now, step: of } = latest.current;
    const edits = now.withoutValues ? [] : textEdit(now.trail.definition, of, typed);
    if (edits.length === 0) return;
    own.current.add(typed);
    now.edit(...edits);
  }, []);

  useEffect(() => {
    if (latest.current.bench.withoutValues) return undefined;
    let current = true;
    const timer = setTimeout(() => {
      keep(text);
      const statements = statementsIn(tokensOf(text));
      const { bench: now, step: of } = latest.current;
      if (statements.length === 0 || (of.kind === 'sql' && statements.length > 1)) return;
      const parameters = now.trail.definition.parameters.map(({ name, type }) => ({ name, type }));
      const script = of.kind === 'script' ? { script: true, before: [...(before ?? [])] } : {};
      const around = tablesAround(dispatch, of.source, text, parameters);
      void Promise.all([describe({ id: of.source, describeTextDto: { text, parameters, ...script } }), around]).then(
        ([{ data }, tables]) => {
          if (!current || !data) return;
          setAnswer({ text, described: { ...(data as unknown as DescribedText), tables }, problems: data.problems });
        },
      );
    }, REST_MS);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [text, step.source, before, describe, keep, dispatch]);

  // The last word is kept also when the editor is left before typing has rested.
  const typed = useRef(text);
  useEffect(() => {
    typed.current = text;
  }, [text]);
  useEffect(() => () => keep(typed.current), [keep]);

  const { definition } = bench.trail;
  const current = answer?.text === text && answer.problems.length === 0 ? answer : undefined;
  const over = useMemo(
    () => (current && !bench.withoutValues ? takeTextOver(definition, step, text, current.described, mint) : undefined),
    [current, bench.withoutValues, definition, step, text],
  );
  const used = useMemo(() => (over && over.fresh.length > 0 ? usedFurther(bench, step, over.gone) : []), [over, bench, step]);
  const take = useCallback(
    (edits: TextTakenOver['edits']) => {
      if (edits.length === 0) return;
      own.current.add(text);
      latest.current.bench.edit(...edits);
    },
    [text],
  );
  // What is typed here is followed. What changed in the source meanwhile, or was taken back by undo, is asked about.
  const follows = over !== undefined && used.length === 0 && taken !== current && (typedHere || step.fields.length === 0);
  useEffect(() => {
    if (!follows) return;
    take(over.edits);
    setTaken(current);
  }, [follows, over, current, take]);
  const waits = over !== undefined && over.edits.length > 0 && !follows;

  const told = answer?.text === text ? answer.problems : [];
  return {
    text,
    type: (next) => {
      if (error) reset();
      setText(next);
      setTypedHere(true);
    },
    keep: () => keep(text),
    convert: (converted) => {
      void tablesAround(dispatch, step.source, converted.text, definition.parameters).then((tables) => {
        const { bench: now, step: of } = latest.current;
        // Written on meanwhile, it is another text, which is offered to be converted by itself.
        if (typed.current !== text) return;
        setTypedHere(true);
        now.edit(...convertEdits(now.trail.definition, of, converted, tables, mint));
      });
    },
    problems: told,
    met: answer?.described.met ?? NOTHING_MET,
    asking: isLoading,
    failure: failureOf(error),
    pending: waits
      ? {
          over,
          used,
          changes: changesOf(step, over),
          take: (renamed) => {
            take(withNames(over, renamed));
            setTaken(current);
          },
        }
      : undefined,
  };
}

function changesOf(step: TextStep, { fields, fresh, gone, edits }: TextTakenOver): readonly string[] {
  const names = (all: readonly SqlField[]) => all.map((each) => each.name).join(', ');
  const retyped = fields.filter((each) => step.fields.some((old) => old.id === each.id && old.sourceType !== each.sourceType));
  const changes = [
    ...(fresh.length > 0 ? [`new: ${names(fresh)}`] : []),
    ...(gone.length > 0 ? [`gone: ${names(gone)}`] : []),
    ...(retyped.length > 0 ? [`of another type: ${names(retyped)}`] : []),
  ];
  return changes.length > 0 || edits.length === 0 ? changes : ['what its parameters meet, or the order of its fields'];
}

/** Fields among these that steps behind, the field sheet or the proof use. */
function usedFurther({ trail: { definition } }: Bench, step: TextStep, gone: readonly SqlField[]): readonly SqlField[] {
  const kept = new Set([...definition.sheet.map((each) => each.field), ...definition.order]);
  return gone.filter(({ id }) => kept.has(id) || usersOf(definition, new Set([id])).some((user) => user !== step.id));
}

/** The edits with fresh fields under the ids of those they are, by their answers: gone field to fresh one. */
function withNames(over: TextTakenOver, renamed: ReadonlyMap<string, string>): TextTakenOver['edits'] {
  return over.edits.map((edit) => {
    if (edit.kind !== 'set step' || edit.property !== 'fields') return edit;
    const to = over.gone.reduce((fields, gone) => takingOver(fields, renamed.get(gone.id), gone), over.fields);
    return { ...edit, to };
  });
}
