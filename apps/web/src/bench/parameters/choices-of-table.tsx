import { useState } from 'react';
import type { Choices, ReadTable } from '@cendra/core';
import { choicesTable, familyOf, fieldsOfChoices, parameterType, sourcesOf } from '@cendra/core';
import { api } from '../../api';
import { useAppDispatch } from '../../app/store';
import { ProblemLine } from '../../ui/notice';
import { describeTables } from '../describe-tables';
import { ChoiceSlot } from '../slots';
import { MOST_TABLES } from '../sql/use-known';
import type { ChoicesLinesProps } from './looked-up';
import { LookedUp } from './looked-up';

interface FromTableProps extends ChoicesLinesProps {
  /** Left out until it is said which table. */
  readonly choices: (Choices & { from: 'table' }) | undefined;
}

/** Choices of a table of the dataset's source, whether a step reads it or not. */
export function FromTable({ choices, ...props }: FromTableProps) {
  const { bench, parameter, onSet } = props;
  const { definition } = bench.trail;
  const source = choices?.table.source ?? sourcesOf(definition)[0] ?? '';
  const tables = api.useSourcesTablesQuery({ id: source, search: '', limit: MOST_TABLES }, { skip: source === '' }).data?.tables ?? [];
  const dispatch = useAppDispatch();
  const [unsuited, setUnsuited] = useState<string>();
  const take = async (name: string) => {
    const found = tables.find((each) => `${each.schema}.${each.name}` === name);
    if (!found) return;
    const [described] = await describeTables(dispatch, source, [found]);
    const family = familyOf(parameterType(parameter));
    const table = described && choicesTable(source, described as unknown as ReadTable);
    const field = table?.columns.find((each) => familyOf(each.type) === family)?.name;
    setUnsuited(field === undefined ? name : undefined);
    if (table && field !== undefined) onSet({ from: 'table', table, field, label: null, sorted: 'by value', narrowedBy: [] });
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
      {unsuited !== undefined && (
        <ProblemLine
          problem={{ severity: 'hint', message: `${unsuited} has no column of ${parameter.type} values.`, expected: 'another table' }}
        />
      )}
      {choices && <LookedUp {...props} choices={choices} schema={{ fields: fieldsOfChoices(choices.table, definition.calendar.zone) }} />}
    </>
  );
}
