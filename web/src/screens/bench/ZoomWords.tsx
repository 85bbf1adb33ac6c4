import type { Evidence, Frame } from "../../api/client";
import type { Aim, Found } from "../../pictures/aim";
import type { Quality } from "../../pictures/cache";
import { sizeOf, type Zoom } from "../../pictures/zoom";
import { sigmaInWords } from "../../ui/format";
import { useSettings } from "../../ui/settings";

interface Props {
  zoom: Zoom;
  quality: Quality | null;
  frame: Frame;
  aim: Aim;
  found: Found | undefined;
  evidence: Evidence | undefined;
}

/** What a zoomed picture says of itself: how close, how sure of the place, how sharp the face there. */
export function ZoomWords({ zoom, quality, frame, aim, found, evidence }: Props) {
  const follow = useSettings((s) => s.follow);
  const face = faceAt(evidence, frame, zoom);
  return (
    <output className="pointer-events-none absolute top-1 right-1 ml-1 over-picture rounded px-1.5 py-0.5 text-right text-[11px]">
      {Math.round(100 * Number(zoom.scale))} %{quality === "full" ? "" : ", true pixels coming"}
      {follow && frame.id !== aim.frame && aim.frame !== null && sureness(found)}
      {typeof face?.sigma_px === "number" && ` · face\u00a0${sigmaInWords(face.sigma_px)}\u00a0px`}
    </output>
  );
}

function sureness(found: Found | undefined): string {
  if (found?.sure) return ` · follows, ${Math.round(100 * found.confidence)} % sure`;
  return found ? " · not sure: same place" : " · same place";
}

/** The face that is looked at, which need not be the one that the frame is about. */
function faceAt(evidence: Evidence | undefined, frame: Frame, zoom: Zoom) {
  const { width, height } = sizeOf(frame);
  const [x, y] = [zoom.x * width, zoom.y * height];
  return evidence?.faces?.find(
    ({ box: [left, top, right, bottom] }) => x >= left && x <= right && y >= top && y <= bottom,
  );
}
