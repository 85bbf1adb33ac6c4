import { Tooltip } from "radix-ui";
import { useState } from "react";
import type { Frame, Warned } from "../../api/client";
import { useEvidence } from "../../shoot/evidence";
import { WARNING_WORDS } from "../../ui/warnings";

const FOCUS: Warned[] = ["missed", "soft", "moved", "shake"];
const LIGHT: Warned[] = ["under", "over", "black"];

/** Small signs for what the evidence warns of; hovered, focused or tapped they say why, with the figures. */
export function Warnings({ frame, reachable }: { frame: Frame; reachable: boolean }) {
  const found = frame.warnings;
  const [open, setOpen] = useState(false);
  if (!found.length) return null;
  const words = found.map((w) => WARNING_WORDS[w]).join(", ");
  return (
    <Tooltip.Root open={open} onOpenChange={setOpen}>
      <Tooltip.Trigger asChild>
        <button
          type="button"
          tabIndex={reachable ? 0 : -1}
          aria-label={`Look at: ${words}`}
          aria-expanded={open}
          // Fingers do not hover; who clicks wants to read it too.
          onClick={(event) => {
            event.preventDefault();
            setOpen(true);
          }}
          className="flex min-h-6 min-w-6 cursor-help items-center justify-center gap-1 over-picture rounded px-1"
        >
          {found.some((w) => FOCUS.includes(w)) && (
            <FocusSign shake={found.includes("shake") || found.includes("moved")} />
          )}
          {found.includes("eyes") && <EyesSign />}
          {found.some((w) => LIGHT.includes(w)) && <LightSign bright={found.includes("over")} />}
        </button>
      </Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={6}
          className="z-50 max-w-72 rounded border border-edge bg-pit px-2 py-1 text-xs text-ink shadow-lg"
        >
          <b className="block font-semibold">{words}</b>
          <Why frame={frame} />
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}

function Why({ frame }: { frame: Frame }) {
  const { data } = useEvidence(frame);
  const against = data?.reasons?.filter((reason) => !reason.good) ?? [];
  return against.map((reason) => (
    <span key={reason.text} className="block text-ink2">
      {reason.text}
    </span>
  ));
}

/** A ring that does not close: what was meant is not in it. Doubled: the camera or the subject moved. */
function FocusSign({ shake }: { shake: boolean }) {
  return (
    <svg width="14" height="14" viewBox="0 0 16 16" aria-hidden="true" fill="none" stroke="currentColor">
      {shake ? (
        <path d="M3 4.500l7-2M3 8.500l10-3M3 12.500l7-2" strokeWidth="1.700" strokeLinecap="round" />
      ) : (
        <path d="M10.500 3a5.500 5.500 0 1 0 2.500 3.500" strokeWidth="1.800" strokeDasharray="3.500 2" />
      )}
    </svg>
  );
}

function EyesSign() {
  return (
    <svg width="14" height="14" viewBox="0 0 16 16" aria-hidden="true" fill="none" stroke="currentColor">
      <path
        d="M1.500 6.500c3.500 4.300 9.500 4.300 13 0M4 9.700l-1.200 2M8 10.500v2.400M12 9.700l1.200 2"
        strokeWidth="1.600"
        strokeLinecap="round"
      />
    </svg>
  );
}

function LightSign({ bright }: { bright: boolean }) {
  return (
    <svg width="13" height="13" viewBox="0 0 16 16" aria-hidden="true">
      <rect
        x="2"
        y="2"
        width="12"
        height="12"
        rx="2"
        fill={bright ? "currentColor" : "none"}
        stroke="currentColor"
        strokeWidth="1.600"
      />
      <path d="M5 8h6" stroke={bright ? "#000" : "currentColor"} strokeWidth="1.800" />
      {bright && <path d="M8 5v6" stroke="#000" strokeWidth="1.800" />}
    </svg>
  );
}
