import type { Choices, FieldType } from '@cendra/core';
import { familyOf, fieldsOfChoices, parameterType, sourcesOf } from '@cendra/core';
import { api } from '../../api';
import { useAppDispatch } from '../../app/store';
import { ChoiceSlot } from '../slots';
import type { ChoicesLinesProps } from './looked-up';
import { LookedUp } from './looked-up';

interface FromTableProps extends ChoicesLinesProps {
  /** Left out until it is said which table. */
  readonly choices: (Choices & { from: 'table' }) | undefined;
}

/** So many tables are offered. */
const MOST_TABLES = 1_000;

/** Choices of a table of the dataset's source, whether a step reads it or not. */
export function FromTable({ choices, ...props }: FromTableProps) {
  const { bench, parameter, onSet } = props;
  const { definition } = bench.trail;
  const source = choices?.table.source ?? sourcesOf(definition)[0] ?? '';
  const tables = api.useSourcesTablesQuery({ id: source, search: '', limit: MOST_TABLES }, { skip: source === '' }).data?.tables ?? [];
  const dispatch = useAppDispatch();
  const take = async (name: string) => {
    const found = tables.find((each) => `${each.schema}.${each.name}` === name);
    if (!found) return;
    const asked = dispatch(api.endpoints.sourcesDescribe.initiate({ id: source, schema: found.schema, table: found.name }));
    const { data } = await asked;
    asked.unsubscribe();
    const columns = (data?.columns ?? []).map((each) => ({
      name: each.name,
      sourceType: each.sourceType,
      type: each.type as FieldType,
      looseText: each.looseText,
    }));
    const family = familyOf(parameterType(parameter));
    const field = columns.find((each) => familyOf(each.type) === family)?.name;
    if (field === undefined) return;
    const table = { source, schema: found.schema, table: found.name, columns };
    onSet({ from: 'table', table, field, label: null, sorted: 'by value', narrowedBy: [] });
  };
  return (
    <>
      {' '}
      <ChoiceSlot
        label="Table the choices come from"
        value={choices ? `${choices.table.schema}.${choices.table.table}` : ''}
        choices={tables.map((each) => `${each.schema}.${each.name}`)}
        disabled={bench.withoutValues}
        onChange={(name) => void take(name)}
      />
      {choices && <LookedUp {...props} choices={choices} schema={{ fields: fieldsOfChoices(choices.table, definition.calendar.zone) }} />}
    </>
  );
}
