import type { DragEvent } from "react";
import type { Frame } from "../api/client";
import { useShoot } from "./store";

/** Offers a frame's own file to the desktop, where the browser hands files out, and the names of all that are dragged
 * elsewhere. */
export function dragOut(event: DragEvent, frame: Frame, all: number[]) {
  const { frames } = useShoot.getState();
  const name = frame.name.slice(frame.name.lastIndexOf("/") + 1);
  const url = `${window.location.origin}/api/frames/${frame.id}/file`;
  event.dataTransfer.effectAllowed = "copy";
  event.dataTransfer.setData("DownloadURL", `application/octet-stream:${name}:${url}`);
  event.dataTransfer.setData("text/plain", all.map((id) => frames.get(id)?.name).join("\n"));
}
