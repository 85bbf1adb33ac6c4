/** What is known of frames, in columns: to sort the wall by, and for its table. */

import { api, type Frame, unwrap } from "../api/client";
import type { components } from "../api/schema";
import { exposureInWords, focalInWords } from "../ui/capture";
import { clock, count, shortDay, shortName, sigmaShort } from "../ui/format";
import { DECISION_WORDS } from "../ui/marks";
import { WARNING_WORDS } from "../ui/warnings";
import { labelId, labelOf, useLabels } from "./labels";

export type Told = components["schemas"]["ColumnsView"]["columns"][string][number];
type Name = "sigma" | "light" | "focal" | "aperture" | "shutter" | "iso" | "faces" | "width" | "height";
type Text = "camera" | "serial" | "lens" | "folder" | "type";
type Word = "caption" | "headline" | "keywords" | "creator" | "copyright";
export type Asked = Name | Text | Word;

export interface Column {
  id: string;
  title: string;
  /** What has to be asked for it; without, the frame itself says it. */
  asks?: Asked;
  /** What it is sorted by; nothing, where it is not known: such frames come last. */
  value: (frame: Frame, told: Told) => number | string | null;
  /** What is shown; empty where it is not known. */
  words: (frame: Frame, told: Told) => string;
  /** Figures stand at the right. */
  figures?: boolean;
  /** Of the table, px. */
  width: number;
}

const asTold = (_: Frame, told: Told) => told;
const number = (told: Told) => (typeof told === "number" ? told : null);

function figure(id: Asked, title: string, width: number, words: (n: number) => string): Column {
  return {
    id,
    title,
    asks: id,
    value: asTold,
    words: (_, told) => (number(told) === null ? "" : words(number(told) ?? 0)),
    figures: true,
    width,
  };
}

function text(id: Asked, title: string, width: number): Column {
  return { id, title, asks: id, value: asTold, words: (_, told) => String(told ?? ""), width };
}

const DECISIONS = { keep: 0, undecided: 1, reject: 2 };

/** Everything the wall can be sorted by. */
export const COLUMNS: Column[] = [
  {
    id: "capture",
    title: "capture time",
    value: ({ position }) => position,
    words: ({ captured_at }) => (captured_at ? `${shortDay(captured_at)} ${captured_at.slice(11, 19)}` : ""),
    width: 125,
  },
  {
    id: "name",
    title: "file name",
    value: ({ name }) => shortName(name),
    words: ({ name }) => shortName(name),
    width: 110,
  },
  {
    id: "decision",
    title: "decision",
    value: ({ decision }) => DECISIONS[decision],
    words: ({ decision }) => DECISION_WORDS[decision],
    width: 90,
  },
  {
    id: "rating",
    title: "rating",
    value: ({ rating }) => rating || null,
    words: ({ rating }) => (rating ? count(rating, "star") : ""),
    figures: true,
    width: 80,
  },
  {
    id: "label",
    title: "label",
    value: ({ label }) => placeOf(label),
    words: ({ label }) => (label ? (labelOf(label)?.name ?? label) : ""),
    width: 110,
  },
  figure("sigma", "σ at the subject", 70, (n) => `${sigmaShort(n)} px`),
  {
    id: "warnings",
    title: "warnings",
    value: ({ warnings }) => (warnings.length ? warnings.join() : null),
    words: ({ warnings }) => warnings.map((one) => WARNING_WORDS[one]).join(", "),
    width: 130,
  },
  figure("faces", "faces", 60, String),
  figure("light", "stops to the group", 70, (n) => n.toFixed(1)),
  text("camera", "camera", 110),
  text("serial", "serial number", 110),
  text("lens", "lens", 140),
  figure("focal", "focal length", 80, (n) => focalInWords({ focal_mm: n })),
  figure("aperture", "aperture", 70, (n) =>
    exposureInWords({ aperture: n, shutter_s: null, iso: null }).join(),
  ),
  figure("shutter", "shutter", 80, (n) =>
    exposureInWords({ aperture: null, shutter_s: n, iso: null }).join(),
  ),
  figure("iso", "ISO", 60, String),
  {
    id: "scene",
    title: "scene",
    value: ({ scene }) => scene,
    words: ({ scene, captured_at }) => `${scene + 1}, ${clock(captured_at)}`,
    width: 80,
  },
  text("type", "file type", 70),
  text("folder", "folder", 120),
  text("caption", "caption", 220),
  text("headline", "headline", 180),
  text("keywords", "keywords", 180),
  text("creator", "creator", 130),
  text("copyright", "copyright", 150),
];

export const COLUMN = new Map(COLUMNS.map((one) => [one.id, one]));

/** Labels in the order in which they are defined, others after them by their text. */
function placeOf(label: string | null): string | null {
  const id = labelId(label);
  if (id === null) return null;
  const place = useLabels.getState().labels.findIndex((one) => one.id === id);
  return place < 0 ? `~${id}` : String(place).padStart(3, "0");
}

/** Asks for columns of all frames of a shoot: by column and frame. */
export async function fetchColumns(shootId: number, names: Asked[]): Promise<Map<string, Map<number, Told>>> {
  if (!names.length) return new Map();
  const answer = await api
    .GET("/api/shoots/{shoot_id}/columns", {
      params: { path: { shoot_id: shootId }, query: { names } },
    })
    .then(unwrap);
  return new Map(
    Object.entries(answer.columns).map(([name, values]) => [
      name,
      new Map(answer.ids.map((id, at) => [id, values[at] ?? null])),
    ]),
  );
}
