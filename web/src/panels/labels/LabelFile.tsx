import type { Label, LabelSet } from "../../shoot/labels";
import { FileButton } from "../../ui/FileButton";
import { saveFile } from "../../ui/saveFile";
import { SHAPES } from "../../ui/shapes";
import { COLOURS } from "./looks";

/** Labels as a file that is saved. */
export function exportLabels(set: LabelSet) {
  saveFile("labels.json", `${JSON.stringify(set, null, 2)}\n`, "application/json");
}

/** Reads labels from a file. */
export function Importer({
  onSet,
  onWrong,
}: {
  onSet: (set: LabelSet) => void;
  onWrong: (message: string) => void;
}) {
  const read = (text: string, name: string) => {
    try {
      onSet(asLabels(JSON.parse(text)));
    } catch (error) {
      const why = error instanceof SyntaxError ? "it is no JSON" : (error as Error).message;
      onWrong(`${name} holds no labels: ${why}.`);
    }
  };
  return (
    <FileButton label="Import labels from a file" accept=".json,application/json" onText={read}>
      Import …
    </FileButton>
  );
}

/** What a file says, as labels. The server says whether they can be. Throws for what is no list of labels. */
function asLabels(content: unknown): LabelSet {
  const { labels, program = null } = (content ?? {}) as Partial<LabelSet>;
  if (!Array.isArray(labels)) throw new Error("there is no list of labels in it");
  return {
    program,
    labels: labels.map((one: Partial<Label>) => {
      if (!one?.name) throw new Error("a label in it has no name");
      const shape = one.shape && one.shape in SHAPES ? one.shape : "disc";
      const colour = COLOURS.find((known) => known === one.colour) ?? "orange";
      return {
        meaning: "",
        key: null,
        texts: {},
        also: [],
        ...one,
        id: one.id ?? one.name,
        name: one.name,
        shape,
        colour,
      };
    }),
  };
}
