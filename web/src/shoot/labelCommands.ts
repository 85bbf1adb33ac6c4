/** A command for each label, on the key that the person gave it. Which there are changes while the application runs. */

import type { Command } from "../keys/command";
import { type Label, useLabels } from "./labels";
import { toggleFilterPart } from "./view";

/** label: sets or clears a label on what the screen's marks act on. */
export function labelCommands(label: (id: string, at: number) => void): () => Command[] {
  let known: Label[] = [];
  let made: Command[] = [];
  return () => {
    const { labels } = useLabels.getState();
    if (labels !== known) {
      known = labels;
      made = labels.flatMap((one) => ofLabel(one, label));
    }
    return made;
  };
}

function ofLabel({ id, name, key }: Label, label: (id: string, at: number) => void): Command[] {
  return [
    {
      id: `label-${id}`,
      title: `Label: ${name}`,
      section: "Label",
      keys: key ? [key] : [],
      run: (at) => label(id, at),
    },
    {
      id: `filter-label-${id}`,
      title: `Filter: label ${name}`,
      section: "Filter",
      keys: key ? [`alt+${key}`] : [],
      run: () => toggleFilterPart("label", "Label", phraseOf(name)),
    },
  ];
}

/** A label in a filter, as the server writes it. */
export function phraseOf(name: string): string {
  return `label ${/[,;"]|\bor\b|^(not|with)\b|^label /i.test(name) ? `"${name.replaceAll('"', '""')}"` : name}`;
}
