import { Button as Base } from '@headlessui/react';
import type { LucideIcon } from 'lucide-react';
import type { ComponentProps } from 'react';

type Kind = 'primary' | 'plain' | 'quiet' | 'danger';

const LOOK: Record<Kind, string> = {
  primary: 'bg-ember text-on-ember border-ember font-medium hover:brightness-95',
  plain: 'bg-paper text-ink border-line hover:border-ink-faint',
  quiet: 'border-transparent text-ink-soft hover:text-ink hover:bg-panel',
  danger: 'bg-paper text-rust border-rust hover:bg-panel',
};

interface ButtonProps extends Omit<ComponentProps<'button'>, 'className' | 'children' | 'ref'> {
  readonly kind?: Kind;
  readonly icon?: LucideIcon;
  readonly small?: boolean;
  readonly children: React.ReactNode;
}

/** A button with words, and an icon before them where it helps. */
export function Button({ kind = 'plain', icon: Icon, small = false, children, ...rest }: ButtonProps) {
  const size = small ? 'h-6 px-2' : 'h-8 px-3';
  return (
    <Base
      type="button"
      {...rest}
      className={`inline-flex shrink-0 items-center gap-1.5 rounded border whitespace-nowrap transition-colors duration-150 disabled:opacity-50 ${size} ${LOOK[kind]}`}
    >
      {Icon && <Icon size={16} strokeWidth={1.75} aria-hidden />}
      {children}
    </Base>
  );
}
