import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { type Frame, smallUrl } from "../api/client";
import { NothingInView } from "../bench/Bench";
import { dragOut } from "../bench/dragOut";
import { clock, copiesInWords, day, shortName } from "../parts/format";
import { DECISION_WORDS, Grain, Stars } from "../parts/marks";
import { WARNING_WORDS, Warnings } from "../parts/warnings";
import { shown } from "../perf";
import { activate, clearSelection, lookAt, selectRange, toggleSelected } from "../shoot/moving";
import { useShoot } from "../shoot/store";
import { BRACKET, type Cell, HEADING, layOut, type Run } from "./layout";

const PADDING = 16;

/** Every frame in view, in capture order. */
export function Wall({ openBench }: { openBench: () => void }) {
  const geometry = useShoot((s) => s.geometry);
  const visible = useShoot((s) => s.visible);
  const active = useShoot((s) => s.active);
  const selection = useShoot((s) => s.selection);
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const size = useShoot((s) => s.wallSize);

  useLayoutEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth - 2 * PADDING));
    observer.observe(element);
    setWidth(element.clientWidth - 2 * PADDING);
    return () => observer.disconnect();
  }, []);

  // biome-ignore lint/correctness/useExhaustiveDependencies: frames are read as they are when it changes
  const rows = useMemo(() => {
    const { frames } = useShoot.getState();
    const list = visible.map((id) => frames.get(id)).filter((f): f is Frame => f !== undefined);
    return width > 0 ? layOut(list, width, size) : [];
  }, [visible, geometry, width, size]);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => rows[index]?.total ?? 0,
    overscan: 4,
    paddingStart: 12,
    paddingEnd: 24,
  });
  const heights = useMemo(() => rows.map((row) => Math.round(row.total)).join(), [rows]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: sizes follow from the rows alone
  useLayoutEffect(() => virtual.measure(), [heights]);

  const range = virtual.range;
  // What is scrolled into sight is prepared first, whether or not a key went there.
  useEffect(() => {
    const middle = range && rows[Math.floor((range.startIndex + range.endIndex) / 2)];
    const busy = ["deriving", "measuring"].includes(useShoot.getState().progress?.state ?? "");
    if (middle?.cells[0] && busy) lookAt(middle.cells[0].frame.id);
  }, [range, rows]);

  const activeRow = useMemo(
    () =>
      active === null ? -1 : rows.findIndex((row) => row.cells.some((cell) => cell.frame.id === active)),
    [rows, active],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a move of the person scrolls
  useEffect(() => {
    if (activeRow >= 0) virtual.scrollToIndex(activeRow, { align: "auto" });
  }, [active, width > 0]);
  useEffect(() => {
    if (active !== null) shown("winnow:show-frame", active);
  }, [active]);

  const onClick = (event: React.MouseEvent, id: number) => {
    if (event.shiftKey) selectRange(id);
    else if (event.ctrlKey || event.metaKey) toggleSelected(id);
    else clearSelection();
    activate(id, event.timeStamp);
  };

  return (
    <main className="relative flex min-w-0 flex-1 flex-col">
      {visible.length === 0 && <NothingInView />}
      <section
        ref={scroller}
        className={`min-h-0 flex-1 overflow-y-auto [scrollbar-width:thin] ${visible.length ? "" : "hidden"}`}
        aria-label="Frames in view"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keys
        tabIndex={0}
      >
        <div className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((item) => {
            const row = rows[item.index];
            if (!row) return null;
            const top = item.start + (row.heading ? HEADING : 0);
            return (
              <div key={item.key}>
                {row.heading && (
                  <h2 className="absolute" style={{ top: item.start + 8, left: PADDING }}>
                    <b className="font-semibold">Scene {row.heading.scene + 1}</b>{" "}
                    <span className="text-ink2">
                      {day(row.heading.captured_at)}, {clock(row.heading.captured_at)}
                    </span>
                  </h2>
                )}
                {row.cells.map((cell) => (
                  <WallCell
                    key={cell.frame.id}
                    cell={cell}
                    top={top}
                    height={row.height}
                    active={cell.frame.id === active}
                    selected={selection.has(cell.frame.id)}
                    onClick={onClick}
                    onOpen={openBench}
                  />
                ))}
                {row.runs.map((run) => (
                  <Bracket key={run.group} run={run} top={top + row.height + 4} />
                ))}
              </div>
            );
          })}
        </div>
      </section>
    </main>
  );
}

interface CellProps {
  cell: Cell;
  top: number;
  height: number;
  active: boolean;
  selected: boolean;
  onClick: (event: React.MouseEvent, id: number) => void;
  onOpen: () => void;
}

const WallCell = memo(
  function WallCell({ cell, top, height, active, selected, onClick, onOpen }: CellProps) {
    const frame = useShoot((s) => s.frames.get(cell.frame.id)) ?? cell.frame;
    useEffect(() => shown("winnow:mark", frame.id), [frame]);
    const rejected = frame.decision === "reject";
    return (
      // biome-ignore lint/a11y/noStaticElementInteractions: dragging a file out has no key; its name can be copied on the bench
      <div
        draggable={!frame.problem}
        onDragStart={(event) => dragOut(event, frame)}
        className="absolute"
        style={{ left: PADDING + cell.left, top, width: cell.width, height, zIndex: active ? 10 : undefined }}
      >
        <button
          type="button"
          tabIndex={-1}
          aria-pressed={selected}
          aria-current={active ? "true" : undefined}
          aria-label={[
            shortName(frame.name),
            DECISION_WORDS[frame.decision],
            `${frame.rating} stars`,
            ...frame.warnings.map((w) => WARNING_WORDS[w]),
          ].join(", ")}
          data-frame={frame.id}
          onClick={(event) => onClick(event, frame.id)}
          onDoubleClick={onOpen}
          className={`absolute inset-0 cursor-default overflow-hidden text-left bg-pit outline-offset-0 ${rejected ? "rejected" : ""} ${
            active ? "outline-2 outline-straw" : selected ? "outline-2 outline-ink2 outline-dashed" : ""
          }`}
        >
          {frame.problem ? (
            <span className="block p-1.5 text-[11px] leading-tight text-ink2">
              <b className="block text-ink">{shortName(frame.name)}</b>
              {frame.problem}
            </span>
          ) : (
            <img
              src={smallUrl(frame)}
              alt=""
              decoding="async"
              draggable={false}
              className="size-full object-cover"
            />
          )}
          {selected && (
            <span className="absolute inset-0 bg-white/12">
              <span className="absolute top-1 left-1 size-3 rounded-xs border-2 border-black/70 bg-ink" />
            </span>
          )}
          {rejected && <span className="struck" />}
          {(frame.decision === "pick" || frame.rating > 0) && (
            <span className="over-picture absolute bottom-1 left-1 flex items-center gap-1 rounded px-1 py-0.5">
              {frame.decision === "pick" && <Grain size={14} />}
              <Stars rating={frame.rating} />
            </span>
          )}
          {!frame.problem && (frame.note || frame.copies > 0) && (
            <span
              title={[frame.note, copiesInWords(frame)].filter(Boolean).join(" ")}
              className="over-picture absolute top-1 right-1 rounded px-1 text-[11px]"
            >
              {frame.note ? "note" : "copy"}
            </span>
          )}
        </button>
        {height >= 60 && (
          <span className="absolute right-1 bottom-1">
            <Warnings frame={frame} reachable={active} />
          </span>
        )}
      </div>
    );
  },
  (before, after) =>
    before.cell.frame === after.cell.frame &&
    before.cell.left === after.cell.left &&
    before.cell.width === after.cell.width &&
    before.top === after.top &&
    before.height === after.height &&
    before.active === after.active &&
    before.selected === after.selected,
);

function Bracket({ run, top }: { run: Run; top: number }) {
  return (
    <div
      className="pointer-events-none absolute"
      style={{ left: PADDING + run.left, top, width: run.width, height: BRACKET }}
    >
      <div
        className={`h-1 border-b border-line ${run.opens ? "rounded-bl border-l" : ""} ${run.closes ? "rounded-br border-r" : ""}`}
      />
      {run.opens && (
        <span className="block truncate pt-0.5 pl-0.5 text-[11px] text-ink3">
          {clock(run.first.captured_at)} · {run.count}
        </span>
      )}
    </div>
  );
}
