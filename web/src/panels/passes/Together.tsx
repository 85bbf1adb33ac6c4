import { useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { api, type Frame, smallUrl, unwrap } from "../../api/client";
import { keyOf, runCommand } from "../../keys/inForce";
import { useShoot } from "../../shoot/store";
import { type OpenWalk, useWalk } from "../../shoot/walk/store";
import { showTogether, takeOut } from "../../shoot/walk/together";
import { Button, Chip, Kbd } from "../../ui/controls";
import { count, shortName } from "../../ui/format";
import { Thumbnail } from "../../ui/Thumbnail";
import { WARNING_WORDS } from "../../ui/warnings";

/** Frames that are shown together with why: all of them are rejected with one key, but those that are taken out. */
export function Together() {
  const walk = useWalk((s) => s.walk);
  const bulk = useWalk((s) => s.bulk);
  return walk && bulk && <Wall walk={walk} key={bulk.show} />;
}

const COLUMNS = "grid-cols-[repeat(auto-fill,minmax(132px,1fr))]";

function Wall({ walk }: { walk: OpenWalk }) {
  const frames = useShoot((s) => s.frames);
  const { show, ids, out } = useWalk((s) => s.bulk) ?? { show: "", ids: [], out: new Set<number>() };
  const left = ids.length - out.size;
  const [at, setAt] = useState(0);
  const list = useRef<HTMLDivElement>(null);
  useEffect(() => {
    (list.current?.children[at] as HTMLElement | undefined)?.focus();
  }, [at]);
  const onKeyDown = (event: KeyboardEvent) => {
    const id = ids[at];
    if (event.key === " " && id !== undefined) takeOut(id);
    else if (event.key in STEPS) {
      const across = columnsOf(list.current);
      const [x, y] = STEPS[event.key] ?? [0, 0];
      setAt(Math.min(ids.length - 1, Math.max(0, at + x + y * across)));
    } else return;
    event.preventDefault();
  };
  return (
    <main className="flex min-w-0 flex-1 flex-col gap-3 p-4" data-testid="together">
      <div className="flex flex-wrap items-center gap-2">
        {walk.definition.bulk.map((one) => (
          <Chip key={one} on={one === show} onClick={() => void showTogether(one)}>
            {one} <Counted show={one} />
          </Chip>
        ))}
        <span className="flex-1" />
        <span className="text-ink2">
          a click, or <Kbd>Space</Kbd>, takes a frame out
        </span>
        <Button
          look="main"
          disabled={!left}
          onClick={(event) => runCommand("bench", "reject", event.timeStamp)}
        >
          Reject {left === ids.length ? "all" : "these"} {left} <Kbd>{keyOf("reject")}</Kbd>
        </Button>
      </div>
      <p className="text-ink2">
        {ids.length
          ? `${count(ids.length, "frame")} of this pass: ${show}. Nothing is rejected before you say so; one undo brings all back.`
          : `No frame of this pass is left that is ${show}.`}
      </p>
      <div
        ref={list}
        role="listbox"
        aria-label="Frames to be rejected together"
        aria-multiselectable
        onKeyDown={onKeyDown}
        className={`grid min-h-0 flex-1 content-start gap-2 overflow-y-auto p-1 ${COLUMNS}`}
      >
        {ids.map((id, place) => {
          const frame = frames.get(id);
          return (
            frame && (
              <OneOf
                key={id}
                frame={frame}
                isIn={!out.has(id)}
                isHere={place === at}
                onPress={() => {
                  setAt(place);
                  takeOut(id);
                }}
              />
            )
          );
        })}
      </div>
    </main>
  );
}

const STEPS: Record<string, [number, number]> = {
  ArrowRight: [1, 0],
  ArrowLeft: [-1, 0],
  ArrowDown: [0, 1],
  ArrowUp: [0, -1],
};

function columnsOf(list: HTMLElement | null): number {
  return list ? getComputedStyle(list).gridTemplateColumns.split(" ").length : 1;
}

interface OneOfProps {
  frame: Frame;
  isIn: boolean;
  isHere: boolean;
  onPress: () => void;
}

function OneOf({ frame, isIn, isHere, onPress }: OneOfProps) {
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: keys are those of the list
    <div
      role="option"
      aria-selected={isIn}
      tabIndex={isHere ? 0 : -1}
      data-together={frame.id}
      onClick={onPress}
      className={`flex cursor-default flex-col gap-0.5 rounded border-2 p-1 outline-offset-0 ${isIn ? "border-line bg-raised" : "border-dashed border-straw"}`}
    >
      <Thumbnail
        src={smallUrl(frame)}
        loading="lazy"
        className={`h-24 w-full object-contain ${isIn ? "opacity-60" : ""}`}
      />
      <span className="truncate">
        {shortName(frame.name)} {!isIn && <b className="font-semibold text-straw">stays</b>}
      </span>
      <span className="text-xs leading-tight text-ink2">{reasons(frame)}</span>
    </div>
  );
}

/** What is known of a frame that may speak against it. */
function reasons({ warnings, faces, lead }: Frame): string {
  const words = warnings.map((one) => WARNING_WORDS[one]);
  return [...words, ...(faces === 0 ? ["no faces"] : []), ...(lead ? ["leads"] : [])].join(", ");
}

/** Of how many frames of the pass a sentence holds. */
function Counted({ show }: { show: string }) {
  const shootId = useShoot((s) => s.shootId);
  const revision = useShoot((s) => s.revision);
  const { data } = useQuery({
    queryKey: ["together", shootId, revision, show],
    queryFn: () =>
      api
        .GET("/api/shoots/{shoot_id}/view", { params: { path: { shoot_id: shootId }, query: { show } } })
        .then(unwrap),
  });
  const places = useWalk((s) => s.places);
  const frames = useShoot((s) => s.frames);
  if (!data) return null;
  return data.ids.filter((id) => places.has(id) && frames.get(id)?.decision !== "reject").length;
}
