import type { Frame } from "../api/client";

/** That a frame was edited, or is an edited file that came of one: two sheets, the one in front filled. */
export function EditedSign({
  frame,
  named = true,
}: {
  frame: Pick<Frame, "original" | "edited">;
  named?: boolean;
}) {
  if (frame.original === null && !frame.edited) return null;
  const isFile = frame.original !== null;
  return (
    <span
      title={isFile ? "An edited file: it stands behind the frame it came of" : "Edited in another program"}
      className="flex items-center gap-1"
    >
      <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
        <rect
          x="3.5"
          y="0.5"
          width="8"
          height="7"
          fill={isFile ? "none" : "currentColor"}
          stroke="currentColor"
        />
        <rect
          x="0.5"
          y="4.5"
          width="8"
          height="7"
          fill={isFile ? "currentColor" : "var(--color-pit)"}
          stroke="currentColor"
        />
      </svg>
      <span className={named ? "" : "sr-only"}>{isFile ? "edited file" : "edited"}</span>
    </span>
  );
}
