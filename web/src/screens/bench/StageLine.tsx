import { ToggleGroup } from "radix-ui";
import { memo } from "react";
import { useShallow } from "zustand/react/shallow";
import type { Frame } from "../../api/client";
import { keyOf } from "../../keys/inForce";
import { useChosen } from "../../shoot/stage";
import { useShoot } from "../../shoot/store";
import { Chip, chipLook, Kbd } from "../../ui/controls";
import { clock, duration, figure } from "../../ui/format";
import { changeSettings, useSettings } from "../../ui/settings";
import { compared } from "./compared";
import { type Layout, toggleKeptOnly, useStage } from "./stageStore";
import { putBack, setLayout, showGroup } from "./staging";

const LAYOUTS: { layout: Layout; title: string }[] = [
  { layout: "group", title: "group" },
  { layout: "two", title: "two" },
  { layout: "one", title: "one" },
];

/** Under the stage: what stands on it, what left it, and how it is looked at. */
export const StageLine = memo(function StageLine({ frame }: { frame: Frame }) {
  const stage = useStage(
    useShallow(({ layout, aside, keptOnly, blink }) => ({ layout, aside, keptOnly, blink })),
  );
  const chosen = useChosen((s) => s.chosen);
  const follow = useSettings((s) => s.follow);
  const { aside, keptOnly } = stage;
  const { place, all, at, among, left, first, last } = useShoot(
    useShallow((shoot) => {
      const ids = compared(shoot, { aside, keptOnly }, chosen, frame.id);
      return {
        place: (shoot.places.get(frame.id) ?? 0) + 1,
        all: shoot.visible.length,
        at: ids.indexOf(frame.id) + 1,
        among: ids.length,
        left: aside.filter((id) => shoot.places.has(id)).length,
        first: shoot.frames.get(ids[0] ?? -1)?.captured_at,
        last: shoot.frames.get(ids.at(-1) ?? -1)?.captured_at,
      };
    }),
  );
  const span = first && last ? (Date.parse(last) - Date.parse(first)) / 1000 : 0;
  return (
    <div
      data-testid="stage-line"
      // What does not fit as a whole falls into a second line, which is not seen.
      className="flex h-8 shrink-0 flex-wrap content-start items-center gap-x-3 gap-y-8 overflow-hidden py-1 whitespace-nowrap text-ink2"
    >
      <LayoutChoice layout={stage.layout} />
      <span>
        {chosen ? "chosen frames" : "frame"} {figure(at || 1)} of {figure(Math.max(1, among))}
        {span >= 1 && ` · ${duration(span)}`}
      </span>
      {left > 0 && (
        <button type="button" onClick={putBack} className="flex min-h-6 items-center gap-1.5">
          <span className="underline underline-offset-2">{left} set aside, put back</span>
          <Kbd>{keyOf("put-back")}</Kbd>
        </button>
      )}
      <Chip
        on={stage.keptOnly}
        onClick={toggleKeptOnly}
        title={`Rejects leave the stage (${keyOf("kept-only")})`}
      >
        without rejects
      </Chip>
      <Chip
        on={follow}
        onClick={() => changeSettings({ follow: !follow })}
        title={`The zoom follows the subject (${keyOf("follow")})`}
      >
        follow
      </Chip>
      {stage.blink && <span className="text-ink">flipping two in one spot</span>}
      <span className="flex-1" />
      <span>
        {clock(frame.captured_at)} · {place} of {all}
      </span>
      <span>
        <Kbd>{keyOf("zoom")}</Kbd> 100 % <Kbd>{keyOf("flip")}</Kbd> flip
      </span>
    </div>
  );
});

function LayoutChoice({ layout: now }: { layout: Layout }) {
  return (
    <ToggleGroup.Root type="single" value={now} aria-label="Layout of the stage" className="flex gap-1">
      {LAYOUTS.map(({ layout, title }) => (
        <ToggleGroup.Item
          key={layout}
          value={layout}
          title={`${title} (${keyOf(`layout-${layout}`)})`}
          onClick={() => (layout === "group" ? showGroup() : setLayout(layout))}
          className={chipLook(layout === now)}
        >
          {title}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
