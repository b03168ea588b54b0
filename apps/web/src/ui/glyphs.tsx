import type { Role } from '@cendra/core';

/** Our own drawings for field roles: notched square, ruler, three lines, page corner with a dot, dot between brackets. */
const PATHS: Record<Role, React.ReactNode> = {
  key: <path d="M3 3h10v4.5H9.5v3H13V13H3z" />,
  measure: <path d="M2.5 5.5h11v5h-11zM5.5 5.5v2M8 5.5v3M10.5 5.5v2" />,
  attribute: <path d="M3 4.5h10M3 8h10M3 11.5h6" />,
  date: (
    <>
      <path d="M3.5 2.5h6l3 3v8h-9zM9.5 2.5v3h3" />
      <circle cx="6.6" cy="10" r="0.9" fill="currentColor" />
    </>
  ),
  code: (
    <>
      <path d="M5.5 3H3v10h2.5M10.5 3H13v10h-2.5" />
      <circle cx="8" cy="8" r="1.1" fill="currentColor" />
    </>
  ),
};

export function RoleGlyph({ role }: { readonly role: Role }) {
  return (
    <svg
      viewBox="0 0 16 16"
      width="16"
      height="16"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.4"
      strokeLinecap="round"
      strokeLinejoin="round"
      role="img"
      aria-label={role}
      className="shrink-0"
    >
      <title>{role}</title>
      {PATHS[role]}
    </svg>
  );
}

/** Cendra's mark: ledger lines with an ember above them. */
export function Mark() {
  return (
    <svg
      viewBox="0 0 16 16"
      width="20"
      height="20"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.75"
      strokeLinecap="round"
      strokeLinejoin="round"
      aria-hidden
      className="text-ember"
    >
      <path d="M2 13.5h12M2 10.5h8M2 7.5h5" />
      <path d="M11.5 8.5c1.7-1.4 1.5-3.4.2-5.5-.3 1.4-2.4 2.2-2.4 4" />
    </svg>
  );
}
