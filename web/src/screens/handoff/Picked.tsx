import { useState } from "react";
import { pictureUrl } from "../../api/client";
import { Button } from "../../ui/controls";
import { count, figure, shortName } from "../../ui/format";

interface One {
  id: number;
  version: string;
  name: string;
}

/** So many pictures are drawn at first: a thousand would hold the page up. */
const SHOWN = 120;

/** Frames to be seen once more before something becomes of their files: all of them, or some. onChange: others are chosen
 * than those of a plan on screen. */
export function usePicked(frames: One[], onChange: () => void) {
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  const ids = frames.filter(({ id }) => !left.has(id)).map(({ id }) => id);
  const toggle = (id: number) => {
    const now = new Set(left);
    if (!now.delete(id)) now.add(id);
    setLeft(now);
    onChange();
  };
  /** What a plan is told: none named, if it is all of them. */
  const named = ids.length === frames.length ? [] : ids;
  const all = (on: boolean) => {
    setLeft(on ? new Set() : new Set(frames.map(({ id }) => id)));
    onChange();
  };
  return { ids, named, left, toggle, all };
}

interface Props {
  frames: One[];
  picked: ReturnType<typeof usePicked>;
  label: string;
}

export function Picked({ frames, picked, label }: Props) {
  const [shown, setShown] = useState(SHOWN);
  return (
    <div>
      <div className="mt-2 flex items-center gap-2 text-xs text-ink2">
        <span>
          {figure(picked.ids.length)} of {count(frames.length, "frame")} chosen
        </span>
        <Button onClick={() => picked.all(true)}>All</Button>
        <Button onClick={() => picked.all(false)}>None</Button>
      </div>
      <ul aria-label={label} className="mt-2 flex max-h-[46vh] flex-wrap gap-1.5 overflow-y-auto">
        {frames.slice(0, shown).map((frame) => {
          const on = !picked.left.has(frame.id);
          return (
            <li key={frame.id}>
              <button
                type="button"
                aria-pressed={on}
                aria-label={shortName(frame.name)}
                onClick={() => picked.toggle(frame.id)}
                className={`block rounded border-2 p-0.5 ${on ? "border-straw" : "border-transparent opacity-45"}`}
              >
                <img
                  src={pictureUrl(frame, "thumb")}
                  alt=""
                  loading="lazy"
                  className="h-20 w-auto min-w-12"
                />
                <span className="block max-w-32 truncate px-1 text-xs">{shortName(frame.name)}</span>
              </button>
            </li>
          );
        })}
      </ul>
      {shown < frames.length && (
        <Button className="mt-2" onClick={() => setShown(shown + 5 * SHOWN)}>
          {count(frames.length - shown, "more picture")} …
        </Button>
      )}
    </div>
  );
}
