import { memo, useEffect, useRef } from "react";
import { tinyUrl } from "../../api/client";
import { useHome } from "../../keys/home";
import { frameInWords } from "../../shoot/inWords";
import { usePaint } from "../../shoot/painting";
import { useShoot } from "../../shoot/store";
import { Grain } from "../../ui/marks";
import { Thumbnail } from "../../ui/Thumbnail";
import { shown } from "../../ui/timing";
import { type CellProps, sameCell } from "./cell";

/** One frame among hundreds: the picture and its decision, nothing to read. */
export const DenseCell = memo(function DenseCell({
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
  const painted = usePaint((s) => s.stroke.has(frame.id));
  const button = useRef<HTMLButtonElement>(null);
  useHome(button, active, frame.id);
  useEffect(() => shown("winnow:mark", frame.id), [frame]);
  const rejected = frame.decision === "reject";
  return (
    <button
      type="button"
      ref={button}
      tabIndex={active ? 0 : -1}
      aria-pressed={selected}
      aria-current={active ? "true" : undefined}
      aria-label={frameInWords(frame)}
      data-frame={frame.id}
      onClick={(event) => onClick(event, frame.id, false)}
      onDoubleClick={onOpen}
      className={`absolute cursor-default overflow-hidden bg-pit outline-offset-0 ${rejected ? "rejected" : ""} ${
        active ? "z-10 outline-2 outline-straw" : selected ? "outline-2 outline-ink2 outline-dashed" : ""
      }`}
      style={{ left, top, width: cell.width, height }}
    >
      {!frame.problem && (
        <Thumbnail
          src={tinyUrl(frame)}
          decoding="async"
          draggable={false}
          className="size-full object-cover"
        />
      )}
      {painted && <span className="absolute inset-0 border-2 border-straw bg-straw/20" />}
      {selected && <span className="absolute inset-0 bg-white/25" />}
      {rejected && <span className="struck" />}
      {frame.decision === "keep" && (
        <span className="over-picture absolute bottom-0 left-0 rounded-tr p-px">
          <Grain size={10} />
        </span>
      )}
    </button>
  );
}, sameCell);
