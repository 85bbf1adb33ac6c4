import { useState } from "react";
import { keyOf } from "../../keys/inForce";
import { fold, useLabels } from "../../shoot/labels";
import { useShoot } from "../../shoot/store";
import { toggleFilterPart } from "../../shoot/view";
import { Button, Kbd } from "../../ui/controls";
import { togglePanel, usePanels } from "../shown";
import { LabelSign } from "./LabelSign";
import { LabelsDialog } from "./LabelsDialog";

/** What the labels mean, with their keys and how many frames have them. */
export function Legend() {
  const shown = usePanels((s) => s.legend && !s.bare);
  const [changing, setChanging] = useState(false);
  const labels = useLabels((s) => s.labels);
  const meant = useLabels((s) => s.meant);
  const used = useShoot((s) => s.view?.tally.labels) ?? {};
  const foreign = Object.keys(used).filter((text) => !meant.has(fold(text)));
  return (
    <>
      {shown && (
        <aside
          aria-label="Labels"
          data-testid="legend"
          className="fixed right-3 bottom-12 z-30 w-72 rounded-md border border-edge bg-wall p-3 shadow-xl"
        >
          <div className="flex items-center pb-2">
            <h2 className="flex-1 font-semibold">Labels</h2>
            <Button onClick={() => setChanging(true)}>Change …</Button>
            <button
              type="button"
              title="Hide the labels"
              onClick={() => togglePanel("legend")}
              className="ml-2 flex min-h-6 items-center"
            >
              <Kbd>{keyOf("legend")}</Kbd>
            </button>
          </div>
          <ul className="space-y-1.5">
            {labels.map(({ id, name, meaning, key }) => (
              <li key={id} className="flex items-start gap-2">
                <span className="w-7 shrink-0">{key && <Kbd>{key.toUpperCase()}</Kbd>}</span>
                <span className="pt-0.5">
                  <LabelSign named={id} size={15} />
                </span>
                <span className="flex-1 leading-tight">
                  {name} <span className="text-ink2">· {used[id] ?? 0}</span>
                  {meaning && <span className="block text-xs text-ink2">{meaning}</span>}
                </span>
              </li>
            ))}
            {foreign.map((text) => (
              <li key={text} className="flex items-center gap-2">
                <span className="w-7 shrink-0" />
                <LabelSign named={text} size={15} />
                <span className="flex-1 truncate">
                  {text} <span className="text-ink2">· {used[text]} · not defined here</span>
                </span>
                <button
                  type="button"
                  className="min-h-6 underline underline-offset-2"
                  onClick={() => setChanging(true)}
                >
                  adopt
                </button>
              </li>
            ))}
          </ul>
          <p className="flex items-center gap-1.5 pt-2 text-xs text-ink2">
            <Kbd>{keyOf("unlabel")}</Kbd> no label
            <button
              type="button"
              className="ml-auto min-h-6 underline underline-offset-2"
              onClick={() => toggleFilterPart("label", "Label", "labelled")}
            >
              show what is labelled
            </button>
          </p>
        </aside>
      )}
      <LabelsDialog open={changing} onOpenChange={setChanging} />
    </>
  );
}
