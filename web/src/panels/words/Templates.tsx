import { useState } from "react";
import { changeOf, sayWords } from "../../shoot/words";
import { TemplatesDialog } from "./TemplatesDialog";
import { useTemplates } from "./useTemplates";

/** Words that are said again and again: one press says them of all frames of the scope. */
export function Templates({ frameIds }: { frameIds: number[] }) {
  const templates = useTemplates();
  const [open, setOpen] = useState(false);
  return (
    <section>
      <h3 className="flex items-center pb-1 text-xs text-ink2">
        Templates
        <button
          type="button"
          onClick={() => setOpen(true)}
          className="ml-auto min-h-6 underline decoration-dotted underline-offset-2"
        >
          templates and vocabulary …
        </button>
      </h3>
      <ul className="flex flex-wrap gap-1">
        {templates?.map((one) => (
          <li key={one.name}>
            <button
              type="button"
              title={Object.values(changeOf(one)).flat().map(String).join(" · ")}
              onClick={() => sayWords(frameIds, changeOf(one))}
              className="min-h-6 rounded-full border border-line px-2.5 text-xs hover:border-ink3"
            >
              {one.name}
            </button>
          </li>
        ))}
        {templates?.length === 0 && <li className="text-xs text-ink2">None yet.</li>}
      </ul>
      <TemplatesDialog open={open} onOpenChange={setOpen} />
    </section>
  );
}
