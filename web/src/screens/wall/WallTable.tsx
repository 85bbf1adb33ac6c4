import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { memo, useEffect, useLayoutEffect, useRef } from "react";
import { tinyUrl } from "../../api/client";
import { useHome } from "../../keys/home";
import { LabelTag } from "../../panels/labels/LabelSign";
import { COLUMN, type Column, fetchColumns, type Told } from "../../shoot/columns";
import { frameInWords } from "../../shoot/inWords";
import { useLine, useOrdering } from "../../shoot/line";
import { neighbour } from "../../shoot/moving";
import { chooseOrder } from "../../shoot/ordering";
import { useShoot } from "../../shoot/store";
import { Grain, Stars } from "../../ui/marks";
import { useSettings } from "../../ui/settings";
import { Thumbnail } from "../../ui/Thumbnail";
import { shown } from "../../ui/timing";
import { useRows } from "../../ui/useRows";
import { choose, openBench } from "./choosing";
import { lookAgain, setSight } from "./sight";

const ROW = 40;
const HEAD = 28;
const PICTURE = 64;

/** The columns of the table that have to be asked for. */
function useColumns(columns: Column[]) {
  const shootId = useShoot((s) => s.shootId);
  const measured = useShoot((s) => s.progress?.measured);
  const isWorded = columns.some(({ asks }) => asks && WORDS.has(asks));
  // Words are the person's: they change with what is said.
  const said = useShoot((s) => (isWorded ? s.revision : 0));
  const asks = columns.flatMap((one) => one.asks ?? []);
  return useQuery({
    queryKey: ["columns", shootId, asks, measured, said],
    placeholderData: keepPreviousData,
    queryFn: () => fetchColumns(shootId, asks),
  }).data;
}

const WORDS = new Set(["caption", "headline", "keywords", "creator", "copyright"]);

/** Frames in view as a table: sorted by any column, with the same keys as the pictures. */
export function WallTable({ hidden }: { hidden: boolean }) {
  const { ids, places } = useLine();
  const active = useShoot((s) => s.active);
  const selection = useShoot((s) => s.selection);
  const { by, down } = useOrdering();
  const chosen = useSettings((s) => s.tableColumns);
  const columns = chosen.flatMap((id) => COLUMN.get(id) ?? []);
  const told = useColumns(columns);
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useRows({
    count: ids.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 8,
    paddingStart: HEAD,
    scrollPaddingStart: HEAD,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: only where the rows are matters
  useLayoutEffect(() => {
    const show = (id: number, align: "auto" | "center") => {
      const place = places.get(id);
      if (place !== undefined) virtual.scrollToIndex(place, { align });
    };
    const has = (id: number) => {
      const [place, element] = [places.get(id), scroller.current];
      if (place === undefined || !element) return false;
      const middle = HEAD + (place + 0.5) * ROW - element.scrollTop;
      return middle >= HEAD && middle <= element.clientHeight;
    };
    setSight({ has, bring: (id) => show(id, "center"), below: neighbour });
    return () => setSight(null);
  }, [places]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a move of the person scrolls
  useLayoutEffect(() => {
    const place = active === null ? undefined : places.get(active);
    if (place !== undefined) virtual.scrollToIndex(place);
    lookAgain();
  }, [active]);
  const template = `${PICTURE}px ${columns.map(({ width }) => `minmax(${width}px, ${width}fr)`).join(" ")}`;
  return (
    <section
      ref={scroller}
      onScroll={lookAgain}
      aria-label="Frames in view"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keys
      tabIndex={0}
      className={`min-h-0 flex-1 overflow-auto [scrollbar-width:thin] ${hidden ? "hidden" : ""}`}
    >
      {/* biome-ignore lint/a11y/useSemanticElements: the rows of a table of thousands come and go, each in its place */}
      <div
        role="table"
        aria-rowcount={ids.length + 1}
        className="relative min-w-max"
        style={{ height: virtual.getTotalSize() }}
      >
        {/* biome-ignore lint/a11y/useSemanticElements: as above */}
        {/* biome-ignore lint/a11y/useFocusableInteractive: its headers are buttons */}
        <div
          role="row"
          className="sticky top-0 z-20 grid border-b border-edge bg-wall text-xs text-ink2"
          style={{ gridTemplateColumns: template, height: HEAD }}
        >
          {/* biome-ignore lint/a11y/useSemanticElements: as above */}
          {/* biome-ignore lint/a11y/useFocusableInteractive: pictures are not sorted by */}
          <span role="columnheader" className="sr-only">
            picture
          </span>
          <span />
          {columns.map((column) => (
            // biome-ignore lint/a11y/useSemanticElements: as above
            // biome-ignore lint/a11y/useFocusableInteractive: the button in it is
            <span
              key={column.id}
              role="columnheader"
              aria-sort={column.id === by ? (down ? "descending" : "ascending") : undefined}
              className={`flex items-center ${column.figures ? "justify-end" : ""}`}
            >
              <button
                type="button"
                onClick={() => void chooseOrder(column.id, column.id === by ? !down : column.id === "rating")}
                className={`min-h-6 truncate px-2 hover:text-ink ${column.id === by ? "text-ink" : ""}`}
              >
                {column.title} {column.id === by && (down ? "↓" : "↑")}
              </button>
            </span>
          ))}
        </div>
        {virtual.getVirtualItems().map(({ index, start }) => {
          const id = ids[index];
          return id === undefined ? null : (
            <Row
              key={id}
              id={id}
              top={start}
              place={index}
              template={template}
              columns={columns}
              told={told}
              active={id === active}
              selected={selection.has(id)}
            />
          );
        })}
      </div>
    </section>
  );
}

interface RowProps {
  id: number;
  top: number;
  place: number;
  template: string;
  columns: Column[];
  told: Map<string, Map<number, Told>> | undefined;
  active: boolean;
  selected: boolean;
}

const Row = memo(
  function Row({ id, top, place, template, columns, told, active, selected }: RowProps) {
    const frame = useShoot((s) => s.frames.get(id));
    const row = useRef<HTMLDivElement>(null);
    useHome(row, active, id);
    useEffect(() => {
      if (frame) shown("winnow:mark", id);
    }, [frame, id]);
    if (!frame) return null;
    const rejected = frame.decision === "reject";
    return (
      // biome-ignore lint/a11y/useSemanticElements: as the table
      // biome-ignore lint/a11y/useKeyWithClickEvents: the keys of the wall go to rows and choose them
      <div
        ref={row}
        role="row"
        tabIndex={active ? 0 : -1}
        aria-rowindex={place + 2}
        aria-current={active ? "true" : undefined}
        aria-selected={selected}
        data-frame={id}
        onClick={(event) => choose(event, id, false)}
        onDoubleClick={openBench}
        className={`absolute right-0 left-0 grid cursor-default items-center border-b border-edge outline-offset-[-2px] ${
          active ? "outline-2 outline-straw" : ""
        } ${selected ? "bg-held" : ""} ${rejected ? "rejected" : ""}`}
        style={{ top, height: ROW, gridTemplateColumns: template }}
      >
        {/* biome-ignore lint/a11y/useSemanticElements: as the table */}
        <span
          role="cell"
          aria-label={frameInWords(frame)}
          className="relative block h-9 w-14 justify-self-center"
        >
          {!frame.problem && (
            <Thumbnail
              src={tinyUrl(frame)}
              decoding="async"
              draggable={false}
              className="size-full object-contain"
            />
          )}
          {rejected && <span className="struck" />}
        </span>
        {columns.map((column) => (
          // biome-ignore lint/a11y/useSemanticElements: as the table
          <span
            key={column.id}
            role="cell"
            className={`truncate px-2 ${column.figures ? "text-right tabular-nums" : ""} ${rejected ? "text-ink2" : ""}`}
          >
            {column.id === "decision" && frame.decision === "keep" && (
              <Grain size={12} className="mr-1 inline" />
            )}
            {column.id === "rating" ? (
              <Stars rating={frame.rating} />
            ) : column.id === "label" && frame.label ? (
              <LabelTag text={frame.label} size={13} />
            ) : (
              column.words(frame, told?.get(column.id)?.get(id) ?? null)
            )}
          </span>
        ))}
      </div>
    );
  },
  (before, after) =>
    before.id === after.id &&
    before.top === after.top &&
    before.active === after.active &&
    before.selected === after.selected &&
    before.template === after.template &&
    before.told === after.told,
);
