import { type DragEvent, memo, useEffect, useRef } from "react";
import { type Frame, pictureUrl, smallUrl, THUMBNAIL_EDGE } from "../../api/client";
import { useHome } from "../../keys/home";
import { Warnings } from "../../panels/evidence/Warnings";
import { LabelTag } from "../../panels/labels/LabelSign";
import { OnFrame } from "../../panels/marking/OnFrame";
import { offer, useOffer } from "../../panels/marking/useOffer";
import { dragOut } from "../../shoot/dragOut";
import { frameInWords } from "../../shoot/inWords";
import { activate } from "../../shoot/moving";
import { usePaint } from "../../shoot/painting";
import { select, toggleSelected } from "../../shoot/selecting";
import { useShoot } from "../../shoot/store";
import { EditedSign } from "../../ui/EditedSign";
import { copiesInWords, shortName } from "../../ui/format";
import { Grain, Stars } from "../../ui/marks";
import { ProposedSign } from "../../ui/ProposedSign";
import { Thumbnail } from "../../ui/Thumbnail";
import { shown } from "../../ui/timing";
import { useLongPress } from "../../ui/useLongPress";
import { type CellProps, sameCell } from "./cell";

/** One frame on the wall, with its marks. */
export const WallCell = memo(function WallCell({
  cell,
  left,
  top,
  height,
  active,
  selected,
  onClick,
  onOpen,
}: CellProps) {
  const frame = useShoot((s) => s.frames.get(cell.frame.id)) ?? cell.frame;
  useEffect(() => shown("winnow:mark", frame.id), [frame]);
  const rejected = frame.decision === "reject";
  const button = useRef<HTMLButtonElement>(null);
  useHome(button, active, frame.id);
  const press = useLongPress(() => hold(frame.id));
  const onControl = useRef(false);
  const offers = useOffer((s) => s.id === frame.id);
  const painted = usePaint((s) => s.stroke.has(frame.id));
  const isPainting = usePaint((s) => s.on);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dragging a file out has no key; its name can be copied on the bench
    <div
      draggable={!frame.problem && !press.touched && !isPainting}
      onPointerDownCapture={({ target }) => {
        onControl.current =
          target instanceof Element && target.closest("fieldset, [aria-pressed]") !== button.current;
      }}
      // A stroke across the stars is not a frame that is carried away.
      onDragStart={(event) => (onControl.current ? event.preventDefault() : drag(event, frame))}
      {...press.handlers}
      onPointerEnter={({ pointerType }) => pointerType === "mouse" && offer(frame.id)}
      onPointerLeave={({ pointerType }) => pointerType === "mouse" && offer(null)}
      className="absolute"
      style={{ left, top, width: cell.width, height, zIndex: offers ? 20 : active ? 10 : undefined }}
    >
      <button
        type="button"
        ref={button}
        tabIndex={active ? 0 : -1}
        aria-pressed={selected}
        aria-current={active ? "true" : undefined}
        aria-label={frameInWords(frame)}
        data-frame={frame.id}
        onClick={(event) => !press.wasLong() && onClick(event, frame.id, press.touched)}
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
          <>
            <Thumbnail
              src={smallUrl(frame)}
              decoding="async"
              draggable={false}
              className="size-full object-cover"
            />
            {isTooLarge(frame, Math.max(cell.width, height)) && (
              <Thumbnail
                src={pictureUrl(frame, "medium")}
                decoding="async"
                draggable={false}
                className="absolute inset-0 size-full object-cover"
              />
            )}
          </>
        )}
        {painted && <span className="absolute inset-0 border-4 border-straw bg-straw/20" />}
        {selected && (
          <span className="absolute inset-0 bg-white/12">
            <span className="absolute top-1 left-1 size-3 rounded-xs border-2 border-black/70 bg-ink" />
          </span>
        )}
        {rejected && <span className="struck" />}
        <Marks frame={frame} />
      </button>
      {offers && !isPainting && <OnFrame frame={frame} />}
      {height >= SIGNS_FROM && (
        <span className="absolute right-1 bottom-1">
          <Warnings frame={frame} reachable={active} />
        </span>
      )}
    </div>
  );
}, sameCell);

/** Whether a place (its long edge, CSS px) is too large for a thumbnail, which would be blown up in it. */
function isTooLarge({ stage, width, height }: Frame, edge: number): boolean {
  const pixels = edge * (window.devicePixelRatio || 1);
  return stage === "preview" && Math.min(pixels, Math.max(width ?? 0, height ?? 0)) > THUMBNAIL_EDGE;
}

/** A finger that rests on a frame selects it; after that a tap selects others. */
function hold(id: number) {
  if (useShoot.getState().selection.size) toggleSelected(id);
  else select([id]);
  activate(id);
  offer(id);
}

/** Lower pictures, px, have no space for the signs of the evidence. */
const SIGNS_FROM = 60;

function Marks({ frame }: { frame: Frame }) {
  const isKept = frame.decision === "keep";
  return (
    <>
      {(isKept || frame.rating > 0 || frame.proposed !== null) && (
        <span className="over-picture absolute bottom-1 left-1 flex items-center gap-1 rounded px-1 py-0.5">
          {frame.proposed !== null && (
            <span className="text-[11px]">
              <ProposedSign frame={frame} />
            </span>
          )}
          {isKept && <Grain size={14} />}
          <Stars rating={frame.rating} />
        </span>
      )}
      {frame.label && (
        <span className="over-picture absolute top-1 right-1 max-w-[90%] rounded px-1 py-0.5 text-[11px]">
          <LabelTag text={frame.label} named={false} size={14} />
        </span>
      )}
      {(frame.edited || frame.original !== null) && (
        <span className="over-picture absolute top-1 left-1 rounded px-1 text-[11px]">
          <EditedSign frame={frame} />
        </span>
      )}
      {!frame.problem && (frame.note || frame.copies > 0) && (
        <span
          title={[frame.note, copiesInWords(frame)].filter(Boolean).join(" ")}
          className={`over-picture absolute right-1 rounded px-1 text-[11px] ${frame.label ? "top-7" : "top-1"}`}
        >
          {frame.note ? "note" : "copy"}
        </span>
      )}
    </>
  );
}

/** All that is selected goes along with one of them. */
function drag(event: DragEvent, frame: Frame) {
  const { selection } = useShoot.getState();
  dragOut(event, frame, selection.has(frame.id) ? [...selection] : [frame.id]);
}
