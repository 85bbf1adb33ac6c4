import { Editors } from "../../panels/editors/Editors";
import { useShoot } from "../../shoot/store";
import { count } from "../../ui/format";
import type { Scope } from "./scope";

/** Frames opened in an editing program, and what came back of it so far. */
export function ToEditor({ scope }: { scope: Scope }) {
  const frames = useShoot((s) => s.frames);
  const here = [...frames.values()].filter(({ place }) => place === "shoot");
  const edited = here.filter((frame) => frame.edited).length;
  const made = here.filter((frame) => frame.original !== null).length;
  return (
    <section>
      <h2 className="text-[15px] font-semibold">{count(scope.frames, scope.noun)} to an editing program</h2>
      <p className="mt-1 max-w-prose text-ink2">
        What it saves beside them is noticed while the shoot is open: a new file stands behind the frame it
        came of, a changed sidecar makes the frame an edited one. Marks that it wrote wait until you ask for
        them.
      </p>
      <Editors frames={scope.ids} counted={scope.frames} noun={scope.noun} />
      <p className="mt-4 text-ink2" data-testid="came-back">
        {edited || made
          ? `So far ${count(edited, "frame")} edited, ${count(made, "edited file")} beside them.`
          : "Nothing came back yet."}
      </p>
    </section>
  );
}
