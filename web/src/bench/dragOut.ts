import type { Frame } from "../api/client";
import { useShoot } from "../shoot/store";

/** Offers a frame's own file to the desktop, where the browser hands files out, and names elsewhere: its own, or
 * those of the selection that it belongs to. */
export function dragOut(event: React.DragEvent, frame: Frame) {
  const { selection, frames } = useShoot.getState();
  const name = frame.name.slice(frame.name.lastIndexOf("/") + 1);
  const url = `${window.location.origin}/api/frames/${frame.id}/file`;
  const all = selection.has(frame.id) ? [...selection] : [frame.id];
  event.dataTransfer.effectAllowed = "copy";
  event.dataTransfer.setData("DownloadURL", `application/octet-stream:${name}:${url}`);
  event.dataTransfer.setData("text/plain", all.map((id) => frames.get(id)?.name).join("\n"));
}
