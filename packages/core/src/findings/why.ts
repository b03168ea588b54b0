/** Why a finding matters, by its code: what would go wrong for whoever runs or reads the dataset. */
const WHY: Readonly<Record<string, string>> = {
  'table-gone': 'Without its table the dataset cannot run at all.',
  'column-gone': 'Every run that needs this field would fail.',
  'column-retyped': 'Values are read in the old type: comparisons, totals and formats may no longer mean what they did.',
  'nothing-taken': 'A dataset without a field has nothing to hand over.',
  'field-gone': 'What names the field has nothing to work on, so the step cannot run.',
  'field-unknown': 'A name that is no field gives no value, so the step cannot run.',
  'parameter-gone': 'The condition asks with a value that nobody can give.',
  'parameter-unused': 'Readers would be asked for a value that changes nothing.',
  'parameter-two-types': 'One value cannot be right for both places; one of them would fail or match nothing.',
  'parameter-name-taken': 'Of two parameters of one name, nobody can say which is meant.',
  'narrowing-gone': 'The choices would no longer be narrowed, and offer what does not fit.',
  'narrowing-circular': 'Each would wait for the other before it has choices.',
  'start-unknown': 'The dataset would open with a value that is not among its choices.',
  'start-type': 'The dataset would open with a value that has to be refused.',
  'value-wrong-type': 'A value of another type cannot be compared with the field.',
  'type-mixed': 'Values of different types have no order and no sum.',
  'name-missing': 'A field without a name can be neither handed over nor used.',
  'name-taken': 'Expressions that use the name could mean either field.',
  'name-twice': 'Files and readers know fields by their names; one of the two would be renamed or lost.',
  'name-unsafe': 'Whoever builds on the dataset has to quote the name everywhere, and some programs cut or refuse it.',
  'name-reserved': 'SQL written on top of the dataset fails until the name is quoted.',
  'format-unsuited': 'The proof and spreadsheets fall back to the usual format.',
  'total-unsuited': 'A sum of what must not be added is a wrong figure that looks right; the proof leaves it out.',
  'proof-field-gone': 'The proof leaves this part out.',
  'average-of-averages': 'A group of two rows weighs as much as one of two thousand; the average of all rows is another figure.',
  'groups-alike': 'What belongs together has two totals, and neither is the whole of it.',
  'group-names-alike': 'A reader takes two groups of one name for one, and the second total for a mistake.',
  'group-names-several': 'The group is called by a name that not all of its rows have.',
  'group-head-several': 'What is told once for a group is believed of all its rows, so it is not told there.',
  'levels-nested': 'Totals of the outer field are scattered: none of its groups stands together.',
  'figure-same': 'It is most likely repeated in each group rather than told per group, as after a join on too few fields.',
  'rows-alike': 'A reader cannot tell whether they are several or one counted twice.',
  'across-one': 'It takes the room of a crosstab and says no more than a list.',
  'chart-without-figure': 'A gap is easily read as nothing, or not seen at all.',
  'link-field-unknown': 'No row leads anywhere: a part of each address is missing.',
  'link-unsound': 'Browsers refuse such an address or make another one of it.',
  'last-by-missing': 'Its subtotals would add up values of different days.',
  'measured-no-measure': 'Keys and codes are numbers that count nothing; adding them up gives a figure that looks like one.',
  'order-unread': 'Most likely it is misspelt, and its group stands behind those that are listed.',
  'order-ties': 'Rows that are equal in the order may change places from run to run.',
  'condition-not-yesno': 'Rows are kept where a condition is yes; this has no yes or no.',
};

const BY_SEVERITY = {
  error: 'The step cannot run before this is mended.',
  warning: 'It runs, and may give something else than you mean.',
  hint: 'It runs as it is; this makes it better for whoever builds on it.',
} as const;

export function whyOf({ code, severity }: { readonly code: string; readonly severity: keyof typeof BY_SEVERITY }): string {
  return WHY[code] ?? BY_SEVERITY[severity];
}
