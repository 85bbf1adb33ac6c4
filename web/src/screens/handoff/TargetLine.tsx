import type { ReactNode } from "react";
import { FolderChooser } from "../../panels/folders/FolderChooser";
import { Button } from "../../ui/controls";

interface Props {
  target: string;
  title: string;
  onChoose: (target: string) => void;
  /** What can be chosen beside it. */
  children?: ReactNode;
}

/** The folder that a plan goes to, and how another is chosen. */
export function TargetLine({ target, title, onChoose, children }: Props) {
  return (
    <div className="flex items-center gap-2">
      <span
        className={`min-w-0 flex-1 truncate ${target ? "" : "text-ink2"}`}
        title={target}
        data-testid="target"
      >
        {target || "no folder chosen yet"}
      </span>
      <FolderChooser
        title={title}
        verb="Choose"
        mayBeNew
        trigger={<Button>Choose a folder …</Button>}
        onChoose={async (path) => {
          onChoose(path);
          return undefined;
        }}
      />
      {children}
    </div>
  );
}
