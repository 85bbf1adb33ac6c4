import { Popover } from "radix-ui";
import type { ReactNode } from "react";
import { Chip } from "../../ui/controls";

interface Props {
  /** What is filtered by. */
  by: string;
  /** What is chosen of it, as it is said to assistive technology. */
  chosen: string;
  /** What the button says. */
  title: ReactNode;
  on: boolean;
  className: string;
  children: ReactNode;
}

/** A button of the filter line that opens a choice. */
export function FilterPopover({ by, chosen, title, on, className, children }: Props) {
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Chip on={on} aria-label={`Filter by ${by}: ${chosen}`}>
          {title}
        </Chip>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={6}
          className={`z-40 rounded-md border border-edge bg-wall p-3 shadow-xl ${className}`}
          aria-label={`Filter by ${by}`}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
