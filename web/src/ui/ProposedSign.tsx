import type { Frame } from "../api/client";

/** That the marks of a frame are only proposed, and by whom: a frame of which two corners are there. */
export function ProposedSign({ frame, named = true }: { frame: Pick<Frame, "proposed">; named?: boolean }) {
  if (frame.proposed === null) return null;
  return (
    <span
      title={`${frame.proposed} proposes these marks: they count once you take them over`}
      className="flex items-center gap-1"
    >
      <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
        <path d="M1 5V1h4M11 7v4H7" fill="none" stroke="currentColor" strokeWidth="1.6" />
        <rect x="4.5" y="4.5" width="3" height="3" fill="currentColor" />
      </svg>
      <span className={named ? "max-w-24 truncate" : "sr-only"}>{frame.proposed}</span>
    </span>
  );
}
