import type { Bound } from "../../keys/bindings";
import { keyName } from "../../keys/press";
import { Kbd } from "../../ui/controls";

/** Keys of labels are said where labels are. */
export const OF_LABELS = /^(filter-)?label-/;

interface Props {
  command: Bound & { section: string };
  isWanted: boolean;
  /** A key is to be another one (`instead`), or one beside those. */
  onWant: (instead: string | null) => void;
  onTake: (key: string) => void;
}

/** A command with its keys. */
export function CommandRow({ command, isWanted, onWant, onTake }: Props) {
  const { id, title, section, screens, keys } = command;
  const isLabel = OF_LABELS.test(id);
  return (
    <li className={`flex min-h-9 items-center gap-3 border-b border-edge px-2 ${isWanted ? "bg-warm" : ""}`}>
      <span className="min-w-0 flex-1 truncate">{title}</span>
      <span className="w-20 text-ink2">{section}</span>
      <span className="w-36 truncate text-xs text-ink2">{screens.join(", ")}</span>
      <span className="flex w-64 flex-wrap items-center justify-end gap-1">
        {keys.map((key) =>
          isLabel ? (
            <Kbd key={key}>{keyName(key)}</Kbd>
          ) : (
            <span key={key} className="flex items-center">
              <button
                type="button"
                title={`${keyName(key)}: press another key for it`}
                onClick={() => onWant(key)}
                className="min-h-6"
              >
                <Kbd>{keyName(key)}</Kbd>
              </button>
              <button
                type="button"
                aria-label={`Take ${keyName(key)} from ${title}`}
                title="Take it off"
                onClick={() => onTake(key)}
                className="size-6 text-ink2 hover:text-ink"
              >
                ×
              </button>
            </span>
          ),
        )}
        {isLabel ? (
          <span className="text-xs text-ink2">said with the label</span>
        ) : (
          <button
            type="button"
            aria-label={`Another key for ${title}`}
            title="Another key"
            onClick={() => onWant(null)}
            className="size-6 rounded border border-dashed border-line text-ink2 hover:text-ink"
          >
            +
          </button>
        )}
      </span>
    </li>
  );
}
