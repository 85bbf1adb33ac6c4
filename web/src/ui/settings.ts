/** What the person has set, kept in this browser. */

import { create } from "zustand";
import { persist } from "zustand/middleware";

export const SURROUNDS = ["dark", "mid", "light"] as const;

export const DENSITIES = ["dense", "standard", "table"] as const;
export type Density = (typeof DENSITIES)[number];

export type MarkKind = "decision" | "rating" | "label";
export type GoOnTo = "frame" | "undecided" | "group";

export interface Settings {
  surround: (typeof SURROUNDS)[number];
  /** Who marks in this browser, for the history; empty: nobody in particular. */
  name: string;
  /** After a mark on one frame, the next one comes by itself. */
  goOn: boolean;
  /** After marks of which kind. */
  goOnAfter: MarkKind[];
  /** Where that leads. */
  goOnTo: GoOnTo;
  /** Also while two frames are compared. */
  goOnComparing: boolean;
  /** A mark that is there already, set again, is taken off: of which kind. */
  againClears: MarkKind[];
  /** Any star means kept, and taking the last one off leaves the frame undecided. */
  starKeeps: boolean;
  /** The zoom follows the subject from frame to frame. */
  follow: boolean;
  /** Capture data stand over the pictures. */
  capture: boolean;
  /** How long a frame stays when the shoot is run through, s; 0: frames come by key. */
  staySeconds: number;
  /** Height of the pictures on the wall, px. */
  wallSize: number;
  wallDensity: Density;
  /** By which column the wall is sorted, and whether the last comes first. */
  wallOrder: { by: string; down: boolean };
  /** Ids of the columns of the wall's table. */
  tableColumns: string[];
  /** The editing program that was opened last, and which file of a frame it takes. */
  editor: string;
  editorTakes: "raw" | "picture";
  /** What was found by the palette, the last first: ids of its entries. */
  recent: string[];
}

export const useSettings = create<Settings>()(
  persist(
    (): Settings => ({
      surround: "dark",
      name: "",
      goOn: false,
      goOnAfter: ["decision", "rating"],
      goOnTo: "frame",
      goOnComparing: false,
      againClears: ["label"],
      starKeeps: false,
      follow: true,
      capture: false,
      staySeconds: 3,
      editor: "",
      editorTakes: "raw",
      wallSize: 150,
      wallDensity: "standard",
      wallOrder: { by: "capture", down: false },
      tableColumns: [
        "name",
        "capture",
        "decision",
        "rating",
        "label",
        "sigma",
        "warnings",
        "lens",
        "shutter",
        "iso",
      ],
      recent: [],
    }),
    {
      name: "winnow.settings",
    },
  ),
);

// Another window of this browser changed something.
globalThis.window?.addEventListener("storage", ({ key }) => {
  if (key === useSettings.persist.getOptions().name) void useSettings.persist.rehydrate();
});

export const { getState: settings, setState: changeSettings } = useSettings;
