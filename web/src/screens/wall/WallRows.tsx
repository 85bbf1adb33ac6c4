import type { Virtualizer } from "@tanstack/react-virtual";
import { type RefObject, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { Frame } from "../../api/client";
import { COLUMN } from "../../shoot/columns";
import { isByTime, useLine, useOrdering } from "../../shoot/line";
import { lookAt } from "../../shoot/moving";
import { useShoot } from "../../shoot/store";
import { clock, day } from "../../ui/format";
import { useSettings } from "../../ui/settings";
import { useRows } from "../../ui/useRows";
import { choose, openBench } from "./choosing";
import { DenseCell } from "./DenseCell";
import { BRACKET, BY_TIME, HEADING, layOut, type Plan, type Row, type Run } from "./layout";
import { usePainting } from "./PaintLayer";
import { lookAgain, setSight } from "./sight";
import { WallCell } from "./WallCell";

const PADDING = 16;
/** Above the first row, px. */
const ABOVE = 12;

/** Height of the pictures where they are dense, px: some 800 of them on 2560 × 1440. */
const DENSE = 48;
/** Sorted by one of these, frames of one value stand under a heading of their own. */
const SECTIONS = new Set([
  "decision",
  "rating",
  "label",
  "camera",
  "serial",
  "lens",
  "type",
  "folder",
  "scene",
]);

/** Frames in view as rows of pictures. dense: small, with nothing to read. */
export function WallRows({ dense, hidden }: { dense: boolean; hidden: boolean }) {
  const geometry = useShoot((s) => s.geometry);
  const { ids } = useLine();
  const by = useOrdering((s) => s.by);
  const values = useOrdering((s) => s.values);
  const active = useShoot((s) => s.active);
  const selection = useShoot((s) => s.selection);
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const chosen = useSettings((s) => s.wallSize);
  const size = dense ? DENSE : chosen;

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
    const list = ids.map((id) => frames.get(id)).filter((f): f is Frame => f !== undefined);
    return width > 0 ? layOut(list, width, size, planOf(by, values, dense)) : [];
  }, [ids, geometry, width, size, by, values, dense]);
  const virtual = useRows({
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
  const painting = usePainting();
  const Cell = dense ? DenseCell : WallCell;
  return (
    <section
      ref={scroller}
      onScroll={lookAgain}
      {...painting}
      className={`min-h-0 flex-1 overflow-y-auto [scrollbar-width:thin] ${hidden ? "hidden" : ""}`}
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
                  <Heading frame={row.heading} by={by} value={values?.get(row.heading.id) ?? null} />
                </h2>
              )}
              {row.cells.map((cell) => (
                <Cell
                  key={cell.frame.id}
                  cell={cell}
                  left={PADDING + cell.left}
                  top={top}
                  height={row.height}
                  active={cell.frame.id === active}
                  selected={selection.has(cell.frame.id)}
                  onClick={choose}
                  onOpen={openBench}
                />
              ))}
              {!dense && <Below row={row} by={by} top={top + row.height + 4} />}
            </div>
          );
        })}
      </div>
    </section>
  );
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
    const below = (by: 1 | -1) => (isByTime(useOrdering.getState()) ? undefined : nextRow(rows, lines, by));
    setSight({ has, bring: (id) => show(id, "center"), below });
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

/** The frame of the row below (+1) or above (−1) whose middle is nearest to that of the active one. */
function nextRow(rows: Row[], lines: Map<number, { index: number }>, by: 1 | -1): number | null {
  const { active } = useShoot.getState();
  const index = active === null ? undefined : lines.get(active)?.index;
  if (index === undefined) return rows[0]?.cells[0]?.frame.id ?? null;
  const own = rows[index]?.cells.find(({ frame }) => frame.id === active);
  const middle = own ? own.left + own.width / 2 : 0;
  const far = (cell: { left: number; width: number }) => Math.abs(cell.left + cell.width / 2 - middle);
  const cells = [...(rows[index + by]?.cells ?? [])].sort((a, b) => far(a) - far(b));
  return cells[0]?.frame.id ?? null;
}

function planOf(by: string, values: ReadonlyMap<number, unknown> | null, dense: boolean): Plan {
  const grouped = isByTime({ by });
  if (dense) return { grouped: false, below: 3 };
  if (grouped) return BY_TIME;
  const sectionOf = SECTIONS.has(by) ? ({ id }: Frame) => String(values?.get(id) ?? "") : undefined;
  return { grouped, below: sectionOf ? 6 : BRACKET, ...(sectionOf && { sectionOf }) };
}

function Heading({ frame, by, value }: { frame: Frame; by: string; value: number | string | null }) {
  if (isByTime({ by })) {
    return (
      <>
        <b className="font-semibold">Scene {frame.scene + 1}</b>{" "}
        <span className="text-ink2">
          {day(frame.captured_at)}, {clock(frame.captured_at)}
        </span>
      </>
    );
  }
  const column = COLUMN.get(by);
  const said = value === null ? "" : column?.words({ ...frame, ...asSorted(by, value) }, value);
  return <b className="font-semibold">{said || `no ${column?.title}`}</b>;
}

/** A heading says what its frames were when they were sorted, though one was marked since. */
function asSorted(by: string, value: number | string): Partial<Frame> {
  return by === "rating" ? { rating: Number(value) } : {};
}

/** What stands below a row: the groups, or what it is sorted by. */
function Below({ row, by, top }: { row: Row; by: string; top: number }) {
  const values = useOrdering((s) => s.values);
  const column = COLUMN.get(by);
  if (isByTime({ by })) return row.runs.map((run) => <Bracket key={run.group} run={run} top={top} />);
  if (SECTIONS.has(by) || !column) return null;
  return row.cells.map(({ frame, left, width }) => (
    <span
      key={frame.id}
      className="pointer-events-none absolute truncate text-[11px] text-ink2"
      style={{ left: PADDING + left, top, width }}
    >
      {column.words(frame, values?.get(frame.id) ?? null)}
    </span>
  ));
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
