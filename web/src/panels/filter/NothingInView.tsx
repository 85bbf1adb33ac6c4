import { looksFor } from "../../shoot/filter";
import { useShoot } from "../../shoot/store";
import { useCard } from "../../shoot/useCard";
import { toggleFilter } from "../../shoot/view";
import { count } from "../../ui/format";

/** In the place of pictures where none passes, or there is none yet, or there is none. */
export function NothingInView() {
  const total = useShoot((s) => s.view?.total ?? 0);
  return (
    <main className="grid flex-1 place-items-center text-center text-ink2">
      {total ? <NonePasses total={total} /> : <NoFrames />}
    </main>
  );
}

function NonePasses({ total }: { total: number }) {
  const looks = useShoot((s) => s.filterOn && looksFor(s.filter));
  const progress = useShoot((s) => s.progress);
  const open = looks && progress && progress.state !== "done" ? progress.listed - progress.measured : 0;
  return (
    <div>
      <p className="pb-2 text-ink">No frame passes the filter{open > 0 && " yet"}.</p>
      {open > 0 && <p className="pb-2">{count(open, "frame")} of it are still to be measured.</p>}
      <button type="button" className="min-h-6 underline" onClick={toggleFilter}>
        Show all {total}
      </button>
    </div>
  );
}

function NoFrames() {
  const shootId = useShoot((s) => s.shootId);
  const known = useCard(shootId)?.progress.state;
  const state = useShoot((s) => s.progress?.state) ?? known;
  if (state === "listing" || state === "waiting" || state === undefined) {
    return (
      <p>
        The folder is being read.
        <br />
        Its pictures come as they are found; you can begin with the first of them.
      </p>
    );
  }
  return (
    <p>
      There are no pictures in this folder.
      <br />
      Copy some into it, or open another from the list of shoots.
    </p>
  );
}
