import { Link } from "wouter";
import { catchUp } from "../shoot/opening";
import { useShoot } from "../shoot/store";
import { Button } from "../ui/controls";

const NOT_FOUND = 404;
const NO_NUMBER = 422;

/** In the place of a shoot that is not open yet. */
export function Opening() {
  return <main className="grid flex-1 place-items-center text-ink2">Opening the shoot …</main>;
}

/** In the place of a shoot that cannot be opened. */
export function NotOpened() {
  const failure = useShoot((s) => s.failure);
  const isUnknown = failure?.status === NOT_FOUND || failure?.status === NO_NUMBER;
  return (
    <main className="grid h-full place-items-center p-6">
      <div role="alert" className="max-w-xl space-y-3">
        <h1 className="text-base font-semibold">
          {isUnknown ? "There is no such shoot here" : "This shoot could not be opened"}
        </h1>
        <p className="text-ink2">
          {isUnknown
            ? "It may have been in another data folder. Open its folder again: marks that are known come back with it."
            : failure?.message}
        </p>
        <div className="flex items-center gap-3">
          {!isUnknown && <Button onClick={() => void catchUp()}>Try again</Button>}
          <Link href="/">To the shoots</Link>
        </div>
      </div>
    </main>
  );
}
