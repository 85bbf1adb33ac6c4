import { Popover } from "radix-ui";
import { useState } from "react";
import { create } from "zustand";
import { useShoot } from "../../shoot/store";
import { chipLook, Hint } from "../../ui/controls";
import { FacetEditor } from "./FacetEditor";
import { NamedFilters } from "./NamedFilters";
import { TypedFilter } from "./TypedFilter";
import { useFacets } from "./useFacets";

/** Whether the panel is open: a key opens it as well. */
export const useAsking = create<{ open: boolean }>(() => ({ open: false }));

export function askMore() {
  useAsking.setState({ open: true });
}

const ROOMS: [string, string[]][] = [
  ["Marks", ["decision", "rating", "label", "unwritten"]],
  ["Words", ["keywords", "caption", "headline", "creator", "copyright"]],
  ["Evidence", ["warning", "faces", "eyes", "sigma", "light"]],
  ["Group", ["similar", "size", "lead", "progress"]],
  ["Capture", ["focal", "aperture", "shutter", "iso", "camera", "lens", "serial"]],
  ["Place", ["taken", "clock", "scene", "folder"]],
  ["File", ["shape", "files", "type", "edited", "readable", "notes", "copies", "name"]],
];

/** Everything that can be asked: typed as a sentence, or chosen. */
export function AskMore() {
  const { open } = useAsking();
  return (
    <Popover.Root open={open} onOpenChange={(now) => useAsking.setState({ open: now })}>
      <Hint text="Ask for more: choose, or type a filter" command="ask">
        <Popover.Trigger asChild>
          <button type="button" className={`${chipLook(false)} border-dashed`}>
            and …
          </button>
        </Popover.Trigger>
      </Hint>
      <Popover.Portal>
        <Popover.Content
          sideOffset={6}
          collisionPadding={8}
          aria-label="Filter"
          className="z-40 w-[min(760px,calc(100vw-16px))] rounded-md border border-edge bg-wall p-3 shadow-xl"
        >
          <Panel />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Panel() {
  const filter = useShoot((s) => s.filter);
  const facets = useFacets(filter);
  const [chosen, choose] = useState("label");
  const facet = facets?.get(chosen);
  const asked = new Set(filter.parts.map((part) => part.facet));
  return (
    <div className="flex flex-col gap-3">
      <TypedFilter onDone={() => useAsking.setState({ open: false })} />
      <div className="grid grid-cols-[1fr_1.1fr] gap-4 max-[700px]:grid-cols-1">
        <div className="max-h-[min(440px,55vh)] overflow-y-auto pr-1">
          {ROOMS.map(([room, names]) => (
            <section key={room} className="pb-2">
              <h3 className="pb-1 text-xs text-ink2">{room}</h3>
              <div className="flex flex-wrap gap-1">
                {names.map((name) => (
                  <button
                    key={name}
                    type="button"
                    aria-pressed={name === chosen}
                    onClick={() => choose(name)}
                    className={`min-h-6 rounded px-1.5 text-xs ${
                      name === chosen ? "bg-held text-ink" : "text-ink hover:bg-raised"
                    } ${asked.has(name) ? "underline underline-offset-2" : ""}`}
                  >
                    {facets?.get(name)?.title ?? name}
                  </button>
                ))}
              </div>
            </section>
          ))}
        </div>
        <div className="flex flex-col gap-3 border-l border-edge pl-4 max-[700px]:border-l-0 max-[700px]:pl-0">
          {facet && (
            <section aria-label={facet.title}>
              <h3 className="pb-2 text-xs font-semibold">{facet.title}</h3>
              <FacetEditor facet={facet} />
            </section>
          )}
          <span className="flex-1" />
          <NamedFilters />
        </div>
      </div>
    </div>
  );
}
