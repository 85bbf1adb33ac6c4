import { useQuery } from "@tanstack/react-query";
import type { Frame } from "../../api/client";
import { place, type Size, sizeOf, type Zoom } from "../../pictures/zoom";
import { detailsOf } from "../../shoot/details";
import { exposureInWords, focalInWords, spaceInWords } from "../../ui/capture";
import { useSettings } from "../../ui/settings";

interface Props {
  frame: Frame;
  /** Of the canvas, device px. */
  size: Size;
  zoom: Zoom;
  active: boolean;
}

/** Capture data over a picture, in its lower corner, as small as a caption. */
export function CaptureLine(props: Props) {
  const on = useSettings((s) => s.capture);
  return on ? <Line {...props} /> : null;
}

function Line({ frame, size, zoom, active }: Props) {
  const { data } = useQuery(detailsOf(frame));
  if (!data) return null;
  const lies = place(sizeOf(frame), size, zoom);
  const ratio = window.devicePixelRatio || 1;
  const left = Math.max(0, lies.left) / ratio;
  const bottom = Math.max(0, size.height - lies.top - lies.height) / ratio;
  const parts = [
    data.captured_at?.slice(11, 19) ?? "no time",
    ...exposureInWords(data),
    focalInWords(data),
    data.lens,
    data.camera,
    spaceInWords(data),
  ].filter(Boolean);
  return (
    <p
      data-testid={active ? "capture" : undefined}
      style={{ left, bottom }}
      className="pointer-events-none absolute m-1 flex flex-wrap gap-x-2 over-picture rounded px-1.5 py-0.5 text-[11px] leading-snug"
    >
      {parts.map((part) => (
        <span key={part}>{part}</span>
      ))}
    </p>
  );
}
