import { type Frame, pictureUrl } from "../../api/client";
import { place, type Size, sizeOf, type Zoom } from "../../pictures/zoom";
import { useStage } from "./stageStore";

/** The picture as if its file had no profile, over the one with it: whether a profile is wrong is seen by flipping. */
export function PlainPicture({ frame, size, zoom }: { frame: Frame; size: Size; zoom: Zoom }) {
  const on = useStage((s) => s.plain);
  if (!on) return null;
  const lies = place(sizeOf(frame), size, zoom);
  const ratio = window.devicePixelRatio || 1;
  return (
    <div data-testid="plain" className="pointer-events-none absolute inset-0 overflow-hidden">
      {frame.profiled && (
        <img
          src={pictureUrl(frame, "plain")}
          alt=""
          className="absolute max-w-none"
          style={{
            left: lies.left / ratio,
            top: lies.top / ratio,
            width: lies.width / ratio,
            height: lies.height / ratio,
          }}
        />
      )}
      <span className="absolute top-1 left-8 over-picture rounded px-1.5 py-0.5 text-[11px]">
        {frame.profiled ? "without its profile" : "no profile in this file"}
      </span>
    </div>
  );
}
