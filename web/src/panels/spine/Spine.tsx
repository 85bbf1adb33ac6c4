import { useEffect, useMemo, useRef, useState } from "react";
import { smallUrl } from "../../api/client";
import { type Group, groupsOf } from "../../shoot/groups";
import { activate } from "../../shoot/moving";
import { activeFrame, type ShootState, useShoot } from "../../shoot/store";
import { setFilter } from "../../shoot/view";
import { clock, duration, shortName } from "../../ui/format";
import { DECISION_WORDS, DecisionBar } from "../../ui/marks";
import { Thumbnail } from "../../ui/Thumbnail";
import { useCalm } from "../../ui/useCalm";
import { useRows } from "../../ui/useRows";
import { WARNING_ORDER, WARNING_WORDS } from "../../ui/warnings";
import { ACROSS, DOWN, HEIGHTS, heightOf, type Item, itemsOf } from "./items";

const allFrames = (shoot: ShootState) => shoot.frames;
const activeGroupOf = (shoot: ShootState) => activeFrame(shoot)?.group;
const activeSceneOf = (shoot: ShootState) => activeFrame(shoot)?.scene;

/** The shoot as one vertical line of scenes and groups, with progress. */
export function Spine() {
  const frames = useCalm(useShoot, allFrames);
  const visible = useShoot((s) => s.visible);
  const activeGroup = useCalm(useShoot, activeGroupOf);
  const here = useCalm(useShoot, activeSceneOf);
  const [said, setSaid] = useState<ReadonlyMap<number, boolean>>(new Map());
  const groups = useMemo(() => groupsOf(visible, frames), [visible, frames]);
  const items = useMemo(() => itemsOf(groups, frames, here, said), [groups, frames, here, said]);
  const fold = (scene: number, folded: boolean) => setSaid((before) => new Map(before).set(scene, folded));
  const scroller = useRef<HTMLDivElement>(null);
  const current = items.findIndex((item) => item.kind === "group" && item.group.group === activeGroup);
  const virtual = useRows({
    count: items.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => {
      const item = items[index];
      return item ? heightOf(item, index === current) : 0;
    },
    overscan: 8,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: sizes follow from the items alone
  useEffect(() => virtual.measure(), [items, current]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the current group comes into sight when it changes
  useEffect(() => {
    if (current >= 0) virtual.scrollToIndex(current, { align: "auto" });
  }, [current]);
  return (
    <nav aria-label="Scenes and groups" className="relative w-[152px] shrink-0 border-r border-edge bg-wall">
      <div className="absolute inset-y-0 left-[13px] w-px bg-line" />
      <div ref={scroller} className="relative h-full overflow-y-auto [scrollbar-width:thin]">
        <div style={{ height: virtual.getTotalSize() }} className="relative">
          {virtual.getVirtualItems().map((row) => {
            const item = items[row.index];
            if (!item) return null;
            return (
              <div key={row.key} className="absolute inset-x-0" style={{ top: row.start, height: row.size }}>
                {item.kind === "scene" ? (
                  <Scene {...item} onFold={fold} />
                ) : (
                  <GroupRow group={item.group} current={item.group.group === activeGroup} />
                )}
              </div>
            );
          })}
        </div>
      </div>
    </nav>
  );
}

type SceneItem = Extract<Item, { kind: "scene" }>;

function Scene({
  first,
  groups,
  count,
  keepers,
  rejects,
  gap,
  unkept,
  folded,
  onFold,
}: SceneItem & { onFold: (scene: number, folded: boolean) => void }) {
  const name = `Scene ${first.scene + 1}`;
  const see = () => setFilter({ show: `people without a keeper, scene ${first.scene + 1}`, parts: [] });
  return (
    <div className="pr-2 pl-[22px]">
      {gap !== null && gap > 0 && (
        <div className="relative flex items-center text-[11px] text-ink3" style={{ height: HEIGHTS.gap }}>
          <span className="absolute left-[-13px] h-3 w-2 bg-wall" />
          <span className="absolute left-[-11px] text-ink3">⋮</span>
          {duration(gap)}
        </div>
      )}
      <div className="pt-2 text-[11.5px] leading-tight text-ink2">
        <button
          type="button"
          tabIndex={-1}
          aria-expanded={!folded}
          title={`${name}: ${groups === 1 ? "1 group" : `${groups} groups`}. ${folded ? "Open it" : "Fold it up"}`}
          onClick={() => onFold(first.scene, !folded)}
          className="group/fold flex w-full items-baseline justify-between text-left text-[12.5px] font-semibold text-ink"
        >
          {name}
          <span
            aria-hidden="true"
            className={`pr-1 text-[11px] text-ink3 group-hover/fold:text-ink ${folded ? "" : "opacity-0 group-hover/fold:opacity-100"}`}
          >
            {folded ? `${groups} ▸` : "▾"}
          </span>
        </button>
        {clock(first.captured_at)} · {count}
        {unkept > 0 && (
          <button
            type="button"
            tabIndex={-1}
            title={`${people(unkept)} of this scene ${unkept === 1 ? "is" : "are"} in no kept frame: show them`}
            onClick={see}
            className="ml-1.5 underline decoration-dotted underline-offset-2 hover:text-ink"
          >
            {unkept} unkept
          </button>
        )}
        {folded && (
          <span className="mt-1 block pr-1">
            <DecisionBar keepers={keepers} rejects={rejects} total={count} />
          </span>
        )}
      </div>
    </div>
  );
}

function people(n: number): string {
  return n === 1 ? "1 person" : `${n} people`;
}

function GroupRow({ group, current }: { group: Group; current: boolean }) {
  return (
    <>
      <GroupButton group={group} current={current} />
      {current && group.ids.length > 1 && <OpenGroup group={group} />}
    </>
  );
}

/** The frames of the current group: which are decided how, which to look at. */
function OpenGroup({ group }: { group: Group }) {
  const frames = useShoot((s) => s.frames);
  const active = useShoot((s) => s.active);
  return (
    <ul aria-label="Frames of this group" className="mr-1.5 ml-[22px] grid grid-cols-5 gap-x-0.5">
      {group.ids.slice(0, ACROSS * DOWN).map((id) => {
        const frame = frames.get(id);
        if (!frame) return null;
        const { decision } = frame;
        return (
          <li key={id} style={{ height: HEIGHTS.frames }}>
            <button
              type="button"
              tabIndex={-1}
              aria-label={`${shortName(frame.name)}, ${DECISION_WORDS[decision]}`}
              title={`${shortName(frame.name)}, ${DECISION_WORDS[decision]}`}
              onClick={(event) => activate(id, event.timeStamp)}
              className={`relative block h-5 w-full overflow-hidden rounded-xs border ${id === active ? "border-straw" : "border-transparent"}`}
            >
              <Thumbnail
                src={frame.problem ? undefined : smallUrl(frame)}
                className={`size-full bg-pit object-cover ${decision === "reject" ? "opacity-30 grayscale" : ""}`}
              />
              {decision === "keep" && <span className="absolute inset-x-0 bottom-0 h-[3px] bg-straw" />}
              {frame.warnings.length > 0 && decision !== "reject" && (
                <WarnedSign className="absolute top-0 right-0" />
              )}
            </button>
          </li>
        );
      })}
    </ul>
  );
}

/** What a line of the spine says, in full. */
function inWords(group: Group): string {
  const { ids, warned, warnings, keepers, rejects } = group;
  const look = WARNING_ORDER.filter((one) => warnings.has(one)).map((one) => WARNING_WORDS[one]);
  return [
    `Group of ${ids.length}`,
    // As on the line itself, where they stand side by side.
    warned > 0 && ` · ${warned} to look at: ${look.join(", ")},`,
    group.bracket && " bracket",
    ` at ${clock(group.first.captured_at)}`,
    keepers > 0 && `, ${keepers} kept`,
    rejects > 0 && `, ${rejects} rejected`,
    keepers === 0 && rejects === ids.length && ", no keeper",
  ]
    .filter(Boolean)
    .join("");
}

/** A small light square: here is something to look at. */
function WarnedSign({ className = "" }: { className?: string }) {
  return <span className={`inline-block size-1.5 bg-white outline outline-black ${className}`} />;
}

/** Three bars, dark to light: exposures that differ on purpose. */
function BracketSign() {
  return (
    <svg width="11" height="9" viewBox="0 0 11 9" aria-hidden="true">
      <rect x="0" y="0" width="3" height="9" fill="currentColor" opacity="0.4" />
      <rect x="4" y="0" width="3" height="9" fill="currentColor" opacity="0.7" />
      <rect x="8" y="0" width="3" height="9" fill="currentColor" />
    </svg>
  );
}

function GroupButton({ group, current }: { group: Group; current: boolean }) {
  const done = group.keepers + group.rejects === group.ids.length;
  const words = inWords(group);
  return (
    <button
      type="button"
      tabIndex={current ? 0 : -1}
      aria-current={current ? "true" : undefined}
      title={words}
      aria-label={words}
      onClick={(event) => activate(group.first.id, event.timeStamp)}
      onPointerDown={(event) => event.currentTarget.releasePointerCapture(event.pointerId)}
      onPointerEnter={(event) => event.buttons === 1 && activate(group.first.id, event.timeStamp)}
      className={`relative ml-4 flex h-[40px] w-[calc(100%-22px)] items-center gap-2 rounded px-1.5 text-left ${
        current ? "bg-held" : "hover:bg-raised"
      }`}
    >
      <span
        // Hollow: nothing of it was kept yet.
        className={`absolute rounded-full ${current ? "left-[-8px] size-2.5" : "left-[-7px] size-2"} ${
          group.keepers
            ? current
              ? "bg-straw"
              : "bg-ink3"
            : `border-[1.5px] bg-wall ${current ? "border-straw" : "border-ink3"}`
        }`}
      />
      <Thumbnail
        src={group.shown ? smallUrl(group.shown) : undefined}
        loading="lazy"
        className={`h-[34px] w-[50px] shrink-0 rounded-xs bg-pit object-cover ${done && !current ? "opacity-55" : ""}`}
      />
      <span className="min-w-0 flex-1">
        <span className="flex items-center gap-1 text-xs leading-tight whitespace-nowrap">
          {group.ids.length}
          {group.warned > 0 && (
            <>
              {" · "}
              <WarnedSign />
              {group.warned}
            </>
          )}
          {group.bracket && <BracketSign />}
        </span>
        <span className="mt-1 block">
          <DecisionBar keepers={group.keepers} rejects={group.rejects} total={group.ids.length} />
        </span>
      </span>
    </button>
  );
}
