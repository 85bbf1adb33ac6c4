/** Looking closer at the active frame. */

import type { Frame } from "../../api/client";
import type { Point } from "../../pictures/aim";
import { aimAt, lookClose, setAim, useAim, usePointer } from "../../pictures/aimStore";
import { sizeOf } from "../../pictures/zoom";
import { tell } from "../../shoot/errors";
import { evidenceOf } from "../../shoot/evidence";
import { putPoint } from "../../shoot/pointing";
import { activeFrame, useShoot } from "../../shoot/store";

/** To a scale at the pointer, or at what the frame is about, and back to the whole. */
export function zoomTo(scale: number, at: number) {
  const frame = activeFrame(useShoot.getState());
  const { aim } = useAim.getState();
  if (!frame) return;
  if (aim.scale === scale) return setAim({ ...aim, scale: "fit" });
  if (aim.scale !== "fit") return setAim({ ...aim, scale });
  const pointer = usePointer.getState();
  const over = pointer.frame === frame.id ? pointer.point : null;
  aimAt(frame.id, over ?? subjectOf(frame) ?? middleOf(frame), scale, !over, at);
}

/** Says that what is under the pointer matters, or what is looked at close up. */
export function pointOut() {
  const frame = activeFrame(useShoot.getState());
  const pointer = usePointer.getState();
  if (pointer.frame !== null && pointer.point) return putPoint(pointer.frame, pointer.point);
  const { aim } = useAim.getState();
  if (frame && aim.scale !== "fit" && aim.frame === frame.id) return putPoint(frame.id, aim.point);
  tell(
    new Error("Point at the place in the picture that matters, or zoom in on it, and press the key again."),
  );
}

function subjectOf(frame: Frame): Point | null {
  const subject = evidenceOf(frame.id)?.focus?.subject;
  return subject ? { x: subject.x, y: subject.y } : null;
}

function middleOf(frame: Frame): Point {
  const { width, height } = sizeOf(frame);
  return { x: width / 2, y: height / 2 };
}

/** To the next face of the active frame, from left to right, and round. */
export function stepFace(by: 1 | -1, at: number) {
  const frame = activeFrame(useShoot.getState());
  const faces = (frame && evidenceOf(frame.id)?.faces)?.map(middleOfFace).sort((a, b) => a.x - b.x);
  if (!frame || !faces?.length) return;
  const { aim } = useAim.getState();
  const isClose = aim.frame === frame.id && aim.scale !== "fit";
  const here = isClose
    ? faces.findIndex(({ x, y }) => x === aim.point.x && y === aim.point.y)
    : by > 0
      ? -1
      : 0;
  const next = faces[(here + by + faces.length) % faces.length];
  if (next) lookClose(frame.id, next, at);
}

function middleOfFace({ box: [x0, y0, x1, y1] }: { box: [number, number, number, number] }): Point {
  return { x: (x0 + x1) / 2, y: (y0 + y1) / 2 };
}
