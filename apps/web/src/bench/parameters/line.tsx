/** One line of a card: what it is about, and its slots. */
export function Line({ label, children }: { readonly label: string; readonly children: React.ReactNode }) {
  return (
    <div className="grid grid-cols-[5rem_1fr] items-baseline">
      <span className="text-ink-soft">{label}</span>
      <span className="min-w-0">{children}</span>
    </div>
  );
}
