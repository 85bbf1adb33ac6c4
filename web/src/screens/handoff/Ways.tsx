import type { ReactNode } from "react";
import { useShoot } from "../../shoot/store";
import { bytes, count } from "../../ui/format";
import type { Scope } from "./scope";
import { useHeld } from "./useHeld";
import { WhatLeaves } from "./WhatLeaves";

export type Way =
  | "folder"
  | "names"
  | "editor"
  | "sidecars"
  | "list"
  | "proof"
  | "answer"
  | "whole"
  | "rejects"
  | "holding";

interface Props {
  way: Way;
  onChoose: (way: Way) => void;
  scope: Scope;
}

/** What leaves, where it can go, and what goes away. */
export function Ways({ way, onChoose, scope }: Props) {
  const rejects = useShoot((s) => s.view?.tally.decisions.reject ?? 0);
  const held = useHeld();
  const one = (own: Way, title: string, text: string, counted: ReactNode) => (
    <button
      type="button"
      aria-pressed={own === way}
      onClick={() => onChoose(own)}
      className={`flex w-full items-center gap-3 rounded-lg border px-3 py-2 text-left ${
        own === way ? "border-straw bg-raised" : "border-edge bg-wall hover:border-ink3"
      }`}
    >
      <span className="min-w-0 flex-1">
        <b className="block font-semibold">{title}</b>
        <span className="block text-xs text-ink2">{text}</span>
      </span>
      <span className="whitespace-nowrap text-ink2">{counted}</span>
    </button>
  );
  const size = held?.frames.reduce((sum, frame) => sum + frame.bytes, 0) ?? 0;
  return (
    <nav
      aria-label="What to do with files"
      className="w-[300px] shrink-0 space-y-2 overflow-y-auto p-4 max-[1100px]:w-[250px] max-[900px]:w-full max-[900px]:overflow-visible"
    >
      <WhatLeaves scope={scope} />
      <h2 className="pt-2 text-xs font-semibold text-ink2">Where to</h2>
      {one("folder", "A folder", "copy or move, verified", scope.frames)}
      {one("names", "Other names", "where they are, RAW and JPEG together", scope.frames)}
      {one("editor", "An editing program", "RAW or JPEG, and what comes back", scope.frames)}
      {one("sidecars", "Sidecars", "marks for the editing program", "")}
      {one("list", "A list", "CSV, JSON, names", scope.counts.filter)}
      {one("proof", "A proof set", "pages for a client, or on paper", scope.frames)}
      {one("answer", "A client's answer", "comes back as marks", "")}
      {one("whole", "The whole shoot", "an archive for another machine, and back", "")}
      <h2 className="pt-2 text-xs font-semibold text-ink2">What goes away</h2>
      {one("rejects", "Rejects", "to the holding folder, and back", rejects)}
      {one(
        "holding",
        "Holding folder",
        held?.frames.length ? `${age(held.folders)} · to the bin from here only` : "nothing waits in it",
        held?.frames.length ? bytes(size) : "",
      )}
    </nav>
  );
}

function age(folders: { since: string | null }[]): string {
  const since = folders.map((folder) => folder.since).filter((at) => at !== null);
  if (!since.length) return "cannot be reached";
  return ageOf(since.reduce((one, other) => (one < other ? one : other)));
}

/** How long ago something was, in days. */
export function ageOf(since: string): string {
  const days = Math.floor((Date.now() - new Date(since).getTime()) / 86_400_000);
  return days < 1 ? "since today" : `${count(days, "day")} old`;
}
