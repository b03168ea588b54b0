import { useCallback, useEffect, useMemo, useState } from 'react';
import type { Answers, Definition, GivenValues } from '@cendra/core';
import { api } from '../api';
import { useAppDispatch, useAppSelector } from '../app/store';
import { valueGiven, valueLeft } from './values-slice';
import { useAddress } from '../ui/address';

/** What an address may carry of values, in characters. */
const MOST_IN_ADDRESS = 2_000;

export interface ValuesInUse {
  /** By parameter id; what a parameter starts as is not among them. */
  readonly values: GivenValues;
  /** The first of some choices is still being looked up. */
  readonly starting: boolean;
  setValues(parameter: string, values: readonly string[]): void;
}

/**
 * The values in use: those of the address come first, then those given on this page, then what the person used last.
 * A value given is remembered as the person's last, unless its parameter is private.
 */
export function useValues(
  id: string,
  revision: number,
  { parameters }: Definition,
  last: GivenValues,
  withoutValues: boolean,
): ValuesInUse {
  const dispatch = useAppDispatch();
  const [search, writeAddress] = useAddress();
  const given = useAppSelector((state) => state.values[id]);
  const [keep] = api.useLastValuesKeepMutation();
  const known = useMemo((): GivenValues => {
    const entries = parameters.flatMap(({ id: parameter, isPrivate }) => {
      const inAddress = search.has(`v.${parameter}`) ? search.getAll(`v.${parameter}`) : undefined;
      const values = inAddress ?? given?.[parameter] ?? (isPrivate ? undefined : last[parameter]);
      return values ? [[parameter, values] as const] : [];
    });
    return Object.fromEntries(entries);
  }, [parameters, search, given, last]);
  const { first: started, starting } = useFirstChoices(id, revision, parameters, known, withoutValues);
  const values = useMemo(() => ({ ...started, ...known }), [started, known]);
  const setValues = useCallback(
    (parameter: string, next: readonly string[]) => {
      const isPrivate = parameters.find((each) => each.id === parameter)?.isPrivate ?? false;
      writeAddress((address) => {
        setEntry(address, `v.${parameter}`, next.length === 0 ? [''] : next);
        const fits = !isPrivate && next.length < MOST_IN_ADDRESS && String(address).length <= MOST_IN_ADDRESS;
        if (!fits) address.delete(`v.${parameter}`);
      });
      // What the address holds is what it says; what is given here stands behind it.
      dispatch(valueGiven({ dataset: id, parameter, values: next }));
      if (!isPrivate && !withoutValues) void keep({ id, parameter, lastValueDto: { values: [...next] } });
    },
    [parameters, writeAddress, dispatch, id, keep, withoutValues],
  );
  useEffect(() => {
    // A parameter that is gone takes its value along.
    for (const parameter of Object.keys(given ?? {}))
      if (!parameters.some((each) => each.id === parameter)) dispatch(valueLeft({ dataset: id, parameter }));
  }, [given, parameters, dispatch, id]);
  return { values, starting, setValues };
}

function setEntry(address: URLSearchParams, key: string, values: readonly string[]): void {
  address.delete(key);
  for (const value of values) address.append(key, value);
}

const NOTHING: GivenValues = {};

/** Parameters without a value that start as the first of their choices, looked up. */
function useFirstChoices(
  dataset: string,
  revision: number,
  parameters: Definition['parameters'],
  known: GivenValues,
  withoutValues: boolean,
): { readonly first: GivenValues; readonly starting: boolean } {
  const dispatch = useAppDispatch();
  const [{ first, of }, setFirst] = useState<{ readonly first: GivenValues; readonly of: string }>({ first: NOTHING, of: '' });
  const wanted = withoutValues ? [] : parameters.filter((each) => each.startsBy === 'first choice' && known[each.id] === undefined);
  const key = JSON.stringify([dataset, wanted, known]);
  useEffect(() => {
    let current = true;
    const look = async () => {
      const found: Record<string, readonly string[]> = {};
      for (const { id, choices } of wanted) {
        if (choices?.from === 'typed') found[id] = choices.items.slice(0, 1).map((each) => each.value);
        else if (choices) {
          const question = { kind: 'choices' as const, parameter: id, search: '' };
          const values = { ...found, ...known } as Record<string, string[]>;
          const { data } = await dispatch(
            api.endpoints.answer.initiate({ dataset, revision, values, question, inputs: key }, { subscribe: false }),
          );
          const [choice] = (data as Answers['choices'] | undefined)?.values ?? [];
          if (choice) found[id] = [choice.value];
        }
      }
      if (current) setFirst({ first: Object.keys(found).length === 0 ? NOTHING : found, of: key });
    };
    void look();
    return () => {
      current = false;
    };
    // The key holds what is wanted and what it depends on; the revision only says where to look.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, dispatch]);
  return { first, starting: wanted.length > 0 && of !== key };
}
