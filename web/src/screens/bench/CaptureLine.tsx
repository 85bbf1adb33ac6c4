import { useQuery } from "@tanstack/react-query";
import type { Frame } from "../../api/client";
import { detailsOf } from "../../shoot/details";
import { exposureInWords, focalInWords, spaceInWords } from "../../ui/capture";
import { useSettings } from "../../ui/settings";

/** Capture data over a picture, as small as a caption. */
export function CaptureLine({ frame, active }: { frame: Frame; active: boolean }) {
  const on = useSettings((s) => s.capture);
  return on ? <Line frame={frame} active={active} /> : null;
}

function Line({ frame, active }: { frame: Frame; active: boolean }) {
  const { data } = useQuery(detailsOf(frame));
  if (!data) return null;
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
      className="pointer-events-none absolute bottom-1 left-1 mr-1 flex flex-wrap gap-x-2 over-picture rounded px-1.5 py-0.5 text-[11px] leading-snug"
    >
      {parts.map((part) => (
        <span key={part}>{part}</span>
      ))}
    </p>
  );
}
