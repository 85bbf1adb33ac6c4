import type { ReactNode } from "react";
import { Chip } from "./controls";

interface Props {
  /** What it is, for who cannot see the sign beside it: "the filter Portraits". */
  what: string;
  title: string;
  on: boolean;
  children: ReactNode;
  onUse: () => void;
  onForget: () => void;
}

/** Something that was kept under a name: used by a click, forgotten by the sign beside it. */
export function KeptChip({ what, title, on, children, onUse, onForget }: Props) {
  return (
    <span className="flex items-center">
      <Chip on={on} title={title} onClick={onUse}>
        {children}
      </Chip>
      <button
        type="button"
        aria-label={`Forget ${what}`}
        title="Forget it"
        onClick={onForget}
        className="size-6 text-ink2 hover:text-ink"
      >
        ×
      </button>
    </span>
  );
}
