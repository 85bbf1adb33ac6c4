import type { Evidence, Frame } from "../../api/client";
import { place, type Size, sizeOf, type Zoom } from "../../pictures/zoom";

interface Props {
  frame: Frame;
  /** Of the canvas, device px. */
  size: Size;
  zoom: Zoom;
  evidence: Evidence | undefined;
}

/** Where the person said that it matters: a diamond that leaves the place itself free. */
export function OwnPoint({ frame, size, zoom, evidence }: Props) {
  const subject = evidence?.focus?.subject;
  if (subject?.kind !== "point") return null;
  const ratio = window.devicePixelRatio || 1;
  const lies = place(sizeOf(frame), size, zoom);
  const left = (lies.left + subject.x * lies.scale) / ratio;
  const top = (lies.top + subject.y * lies.scale) / ratio;
  return (
    <svg
      role="img"
      viewBox="-14 -14 28 28"
      data-testid="own-point"
      className="pointer-events-none absolute size-7 -translate-x-1/2 -translate-y-1/2"
      style={{ left, top }}
    >
      <title>Your point: what matters in this frame</title>
      <path d="M0 -12L12 0L0 12L-12 0Z" fill="none" stroke="#000" strokeOpacity="0.7" strokeWidth="4" />
      <path d="M0 -12L12 0L0 12L-12 0Z" fill="none" stroke="#fff" strokeWidth="1.800" />
    </svg>
  );
}
