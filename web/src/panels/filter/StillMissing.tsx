import { goToScreen } from "../../shoot/address";
import { EVERYTHING, ofParts, partOf } from "../../shoot/filter";
import { setFilter } from "../../shoot/view";
import { count } from "../../ui/format";
import { useFacets } from "./useFacets";

const WITHOUT = "groups without a keeper";
const SCENES = "scenes without a keeper";
const PEOPLE = "people without a keeper";

/** What no keeper was chosen of: named before keepers leave, and nothing is forced. */
export function StillMissing() {
  const progress = useFacets(EVERYTHING)?.get("progress");
  const counted = (phrase: string) => progress?.values.find((value) => value.phrase === phrase)?.count ?? 0;
  if (!counted(WITHOUT) && !counted(PEOPLE)) return null;
  const see = (phrase: string) => {
    setFilter(ofParts([partOf("progress", progress?.title ?? "", [phrase])]));
    goToScreen("wall");
  };
  return (
    <p className="pt-2 text-ink2" data-testid="still-missing">
      {count(counted(WITHOUT), "frame")} in groups without a keeper
      <See what="the groups without a keeper" onClick={() => see(WITHOUT)} />
      {counted(SCENES) > 0 && (
        <>
          , {counted(SCENES)} of them in scenes without one
          <See what="the scenes without a keeper" onClick={() => see(SCENES)} />
        </>
      )}
      {counted(PEOPLE) > 0 && (
        <>
          ; {count(counted(PEOPLE), "frame")} with people of their scene who are in no kept frame
          <See what="the people without a keeper" onClick={() => see(PEOPLE)} />
        </>
      )}
    </p>
  );
}

function See({ what, onClick }: { what: string; onClick: () => void }) {
  return (
    <button type="button" onClick={onClick} className="ml-1.5 min-h-6 underline underline-offset-2">
      see<span className="sr-only"> {what}</span>
    </button>
  );
}
