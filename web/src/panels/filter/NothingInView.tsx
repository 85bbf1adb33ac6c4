import { useShoot } from "../../shoot/store";
import { toggleFilter } from "../../shoot/view";

/** In the place of pictures where none passes, or there is none. */
export function NothingInView() {
  const total = useShoot((s) => s.view?.total ?? 0);
  return (
    <main className="grid flex-1 place-items-center text-center text-ink2">
      {total ? (
        <div>
          <p className="pb-2 text-ink">No frame passes the filter.</p>
          <button type="button" className="underline" onClick={toggleFilter}>
            Show all {total}
          </button>
        </div>
      ) : (
        <p>
          There are no pictures in this folder.
          <br />
          Copy some into it, or open another from the list of shoots.
        </p>
      )}
    </main>
  );
}
