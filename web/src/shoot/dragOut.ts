import type { DragEvent } from "react";
import type { Frame } from "../api/client";
import { useShoot } from "./store";

/** Offers what is dragged: one frame as its own file, where the browser hands files out (Chromium's DownloadURL takes
 * one); several by their addresses (text/uri-list, RFC 2483), for programs that fetch them. Their names go along, for
 * where text can be dropped. */
export function dragOut(event: DragEvent, frame: Frame, all: number[]) {
  const { frames } = useShoot.getState();
  const address = (id: number) => `${window.location.origin}/api/frames/${id}/file`;
  event.dataTransfer.effectAllowed = "copy";
  if (all.length === 1) {
    const name = frame.name.slice(frame.name.lastIndexOf("/") + 1);
    event.dataTransfer.setData("DownloadURL", `application/octet-stream:${name}:${address(frame.id)}`);
  }
  event.dataTransfer.setData("text/uri-list", all.map(address).join("\r\n"));
  event.dataTransfer.setData("text/plain", all.map((id) => frames.get(id)?.name).join("\n"));
}
