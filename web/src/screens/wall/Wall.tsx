import { useVirtualizer, type Virtualizer } from "@tanstack/react-virtual";
import {
  type MouseEvent,
  type RefObject,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import type { Frame } from "../../api/client";
import { NothingInView } from "../../panels/filter/NothingInView";
import { goToScreen } from "../../shoot/address";
import { activate, lookAt } from "../../shoot/moving";
import { stopPainting, usePaint } from "../../shoot/painting";
import { clearSelection, putSelectionAway, selectRange, toggleSelected } from "../../shoot/selecting";
import { useShoot } from "../../shoot/store";
import { clock, day } from "../../ui/format";
import { useSettings } from "../../ui/settings";
import { shown } from "../../ui/timing";
import { BRACKET, HEADING, layOut, type Row, type Run } from "./layout";
import { PaintAtPointer, usePainting } from "./PaintLayer";
import { lookAgain, setSight } from "./sight";
import { WallCell } from "./WallCell";

const PADDING = 16;
/** Above the first row, px. */
const ABOVE = 12;

/** Every frame in view, in capture order. */
export function Wall() {
  const geometry = useShoot((s) => s.geometry);
  const visible = useShoot((s) => s.visible);
  const active = useShoot((s) => s.active);
  const selection = useShoot((s) => s.selection);
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const size = useSettings((s) => s.wallSize);

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
    paddingStart: ABOVE,
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

  const show = useSight(rows, virtual, scroller);
  // Before the next key can come: it acts on what is in sight.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a move of the person scrolls
  useLayoutEffect(() => {
    show(active);
    lookAgain();
  }, [active, width > 0]);
  useEffect(() => {
    if (active !== null) shown("winnow:show-frame", active);
  }, [active]);

  const painting = usePainting();
  useEffect(() => stopPainting, []);

  // However the wall is left: what is selected here is nothing that a key may act on elsewhere.
  useLayoutEffect(() => putSelectionAway, []);

  return (
    <main className="relative flex min-w-0 flex-1 flex-col">
      <PaintAtPointer />
      {visible.length === 0 && <NothingInView />}
      <section
        ref={scroller}
        onScroll={lookAgain}
        {...painting}
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
                    left={PADDING + cell.left}
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

function onClick(event: MouseEvent, id: number, touch: boolean) {
  if (usePaint.getState().on) return;
  const isSelecting = touch && useShoot.getState().selection.size > 0;
  if (event.shiftKey) selectRange(id);
  else if (event.ctrlKey || event.metaKey || isSelecting) toggleSelected(id);
  else clearSelection();
  activate(id, event.timeStamp);
}

function openBench() {
  goToScreen("bench");
}

/** Tells the keys what can be seen: a frame counts as seen if its middle is. A frame that is seen stays so when the rows
 * are laid out anew. Returns what scrolls to a frame. */
function useSight(
  rows: Row[],
  virtual: Virtualizer<HTMLDivElement, Element>,
  scroller: RefObject<HTMLDivElement | null>,
) {
  const lines = useMemo(() => linesOf(rows), [rows]);
  const wasSeen = useRef(false);
  const show = (id: number | null, align: "auto" | "center" = "auto") => {
    const line = id === null ? undefined : lines.get(id);
    if (line) virtual.scrollToIndex(line.index, { align });
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: only where the rows are matters
  useLayoutEffect(() => {
    const has = (id: number) => {
      const [line, element] = [lines.get(id), scroller.current];
      if (!line || !element) return false;
      return line.middle >= element.scrollTop && line.middle <= element.scrollTop + element.clientHeight;
    };
    setSight({ has, bring: (id) => show(id, "center") });
    const { active } = useShoot.getState();
    if (wasSeen.current) show(active);
    return () => {
      const { active } = useShoot.getState();
      wasSeen.current = active !== null && has(active);
      setSight(null);
    };
  }, [lines]);
  return show;
}

/** The row of each frame, and where the middle of its picture is, px from the top. */
function linesOf(rows: Row[]): Map<number, { index: number; middle: number }> {
  const lines = new Map<number, { index: number; middle: number }>();
  let top = ABOVE;
  rows.forEach((row, index) => {
    const middle = top + (row.heading ? HEADING : 0) + row.height / 2;
    for (const { frame } of row.cells) lines.set(frame.id, { index, middle });
    top += row.total;
  });
  return lines;
}

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
