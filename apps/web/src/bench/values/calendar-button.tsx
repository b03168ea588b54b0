interface CalendarButtonProps {
  /** Of the slot it stands beside. */
  readonly label: string;
  readonly value: string;
  readonly onChoose: (day: string) => void;
}

/** Opens the browser's calendar beside a slot for a day. */
export function CalendarButton({ label, value, onChoose }: CalendarButtonProps) {
  const [day = ''] = /^\d{4}-\d{2}-\d{2}/.exec(value) ?? [];
  return (
    <input
      type="date"
      aria-label={`${label}, from the calendar`}
      value={day}
      onChange={(event) => event.target.value !== '' && event.target.value !== day && onChoose(event.target.value)}
      className="calendar-only size-7 shrink-0 rounded border bg-paper"
    />
  );
}
