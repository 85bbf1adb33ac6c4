import { type PointerEvent, useEffect, useRef, useState } from "react";
import { LabelSign } from "../../panels/labels/LabelSign";
import { endStroke, type Paint, strokeOver, usePaint } from "../../shoot/painting";
import { Grain, Stars } from "../../ui/marks";

/** What makes a wall paintable: handlers for what holds the frames, and the paint beside the pointer. */
export function usePainting() {
  const on = usePaint((s) => s.on);
  const drawing = useRef(false);
  if (!on) return {};
  return {
    onPointerDown: (event: PointerEvent) => {
      const id = frameAt(event);
      if (event.button !== 0 || id === null || !usePaint.getState().paint) return;
      drawing.current = true;
      strokeOver(id);
    },
    onPointerMove: (event: PointerEvent) => {
      if (!drawing.current) return;
      // A quick hand skips frames between two reports: the browser knows where it was.
      for (const one of [...event.nativeEvent.getCoalescedEvents(), event]) {
        const id = frameAt(one);
        if (id !== null) strokeOver(id);
      }
    },
    onPointerUp: (event: PointerEvent) => {
      drawing.current = false;
      endStroke(event.timeStamp);
    },
    onPointerCancel: (event: PointerEvent) => {
      drawing.current = false;
      endStroke(event.timeStamp);
    },
    // A finger paints, it does not scroll.
    style: { touchAction: "none", cursor: "crosshair" } as const,
  };
}

function frameAt({ clientX, clientY }: { clientX: number; clientY: number }): number | null {
  const found = document.elementFromPoint(clientX, clientY)?.closest("[data-frame]");
  return found instanceof HTMLElement ? Number(found.dataset.frame) : null;
}

/** The paint goes with the pointer. */
export function PaintAtPointer() {
  const { on, paint } = usePaint();
  const [place, setPlace] = useState<{ x: number; y: number } | null>(null);
  useEffect(() => {
    if (!on) return setPlace(null);
    const follow = ({ clientX, clientY }: globalThis.PointerEvent) => setPlace({ x: clientX, y: clientY });
    window.addEventListener("pointermove", follow);
    return () => window.removeEventListener("pointermove", follow);
  }, [on]);
  if (!on || !paint || !place) return null;
  return (
    <span
      data-testid="paint"
      className="over-picture pointer-events-none fixed z-50 rounded px-1.5 py-1"
      style={{ left: place.x + 14, top: place.y + 10 }}
    >
      <PaintSign paint={paint} />
    </span>
  );
}

function PaintSign({ paint }: { paint: Paint }) {
  if (paint.kind === "rating") return paint.value ? <Stars rating={paint.value} /> : <>no stars</>;
  if (paint.kind === "label")
    return paint.value ? <LabelSign named={paint.value} size={16} /> : <>no label</>;
  if (paint.value === "keep") return <Grain size={16} />;
  return <>{paint.value === "reject" ? "reject" : "undecided"}</>;
}
