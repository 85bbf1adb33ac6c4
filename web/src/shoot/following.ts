import { useDeferredValue } from "react";
import type { Frame } from "../api/client";

/** A frame for words that stand beside its picture: another one comes right after the picture is drawn, so that laying out
 * text holds no picture up. Its marks are those of now. */
export function useFollowing<T extends Frame | undefined>(frame: T): T {
  const before = useDeferredValue(frame);
  return before?.id === frame?.id ? frame : before;
}
