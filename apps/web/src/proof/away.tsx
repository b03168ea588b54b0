import { X } from 'lucide-react';

/** Takes a part of the sentence away. */
export function Away({ label, hidden, onClick }: { readonly label: string; readonly hidden: boolean; readonly onClick: () => void }) {
  if (hidden) return null;
  return (
    <button type="button" aria-label={label} onClick={onClick} className="text-ink-faint hover:text-ink">
      <X size={14} strokeWidth={1.75} aria-hidden />
    </button>
  );
}
