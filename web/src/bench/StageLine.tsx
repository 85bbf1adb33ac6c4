import { useCallback } from "react";
import { useShallow } from "zustand/react/shallow";
import type { Frame } from "../api/client";
import { useShout } from "../keys/useKeys";
import { Chip, Kbd } from "../parts/controls";
import { clock, duration } from "../parts/format";
import { activate } from "../shoot/moving";
import { useShoot } from "../shoot/store";
import { choose, compared, putBack, setFollow, setLayout, toggleKeptOnly, useStage } from "./stageStore";

const LAYOUTS = [
  { layout: "group", title: "group", key: "G" },
  { layout: "two", title: "two", key: "I" },
  { layout: "one", title: "one", key: "O" },
] as const;

/** Under the stage: what stands on it, what left it, and how it is looked at. */
export function StageLine({ frame }: { frame: Frame }) {
  const stage = useStage();
  const shoot = useShoot(
    useShallow(({ frames, visible, places, active }) => ({ frames, visible, places, active })),
  );
  const place = (shoot.places.get(frame.id) ?? 0) + 1;
  const ids = compared(shoot, stage);
  const at = ids.indexOf(frame.id) + 1;
  const left = stage.aside.filter((id) => shoot.places.has(id)).length;
  const first = shoot.frames.get(ids[0] ?? -1)?.captured_at;
  const last = shoot.frames.get(ids.at(-1) ?? -1)?.captured_at;
  const span = first && last ? (Date.parse(last) - Date.parse(first)) / 1000 : 0;
  useRuns(ids, frame.id);
  return (
    <div
      data-testid="stage-line"
      // What does not fit as a whole falls into a second line, which is not seen.
      className="flex h-8 shrink-0 flex-wrap content-start items-center gap-x-3 gap-y-8 overflow-hidden py-1 whitespace-nowrap text-ink2"
    >
      <fieldset aria-label="Layout of the stage" className="flex gap-1">
        {LAYOUTS.map(({ layout, title, key }) => (
          <Chip
            key={layout}
            on={stage.layout === layout}
            title={`${title} (${key})`}
            onClick={() => (layout === "group" && stage.chosen ? choose(null) : setLayout(layout))}
          >
            {title}
          </Chip>
        ))}
      </fieldset>
      <span>
        {stage.chosen ? "chosen frames" : "frame"} {at || 1} of {Math.max(1, ids.length)}
        {span >= 1 && ` · ${duration(span)}`}
      </span>
      {left > 0 && (
        <button type="button" onClick={putBack} className="flex min-h-6 items-center gap-1.5">
          <span className="underline underline-offset-2">{left} set aside, put back</span>
          <Kbd>⌫</Kbd>
        </button>
      )}
      <Chip on={stage.keptOnly} onClick={toggleKeptOnly} title="Rejects leave the stage (/)">
        without rejects
      </Chip>
      <Chip
        on={stage.follow}
        onClick={() => setFollow(!stage.follow)}
        title="The zoom follows the subject (;)"
      >
        follow
      </Chip>
      {stage.blink && <span className="text-ink">flipping two in one spot</span>}
      <span className="flex-1" />
      <span>
        {clock(frame.captured_at)} · {place} of {shoot.visible.length}
      </span>
      <span>
        <Kbd>Space</Kbd> 100 % <Kbd>F</Kbd> flip
      </span>
    </div>
  );
}

/** A key for the next run of a group that is too long for the stage. */
function useRuns(ids: number[], active: number) {
  const go = useCallback(
    (by: 1 | -1) => {
      const here = document.querySelectorAll("[data-testid=stage] [role=img][data-frame]").length || 1;
      const run = Math.floor(Math.max(0, ids.indexOf(active)) / here);
      const to = ids[(run + by) * here];
      if (to !== undefined) activate(to);
    },
    [ids, active],
  );
  useShout(
    "next-run",
    useCallback(() => go(1), [go]),
  );
  useShout(
    "previous-run",
    useCallback(() => go(-1), [go]),
  );
}
