interface SaidProps {
  readonly label: string;
  readonly messages: readonly { readonly severity: string; readonly text: string }[];
  /** So many are shown; the rest is counted. */
  readonly most?: number;
}

/** What a source said beside its answers. */
export function Said({ label, messages, most = 50 }: SaidProps) {
  if (messages.length === 0) return null;
  const rest = messages.length - most;
  return (
    <ul aria-label={label}>
      {messages.slice(0, most).map((each, at) => (
        <li key={at}>
          <span className={each.severity === 'warning' ? 'text-amber' : 'text-ink-soft'}>{each.severity}: </span>
          {each.text}
        </li>
      ))}
      {rest > 0 && <li className="text-ink-soft">and {rest} more</li>}
    </ul>
  );
}
