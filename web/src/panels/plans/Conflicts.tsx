import type { Decision, PlanView, PlanWish } from "../../api/client";
import { Button, Chip } from "../../ui/controls";
import { count, moment } from "../../ui/format";
import { DECISION_WORDS } from "../../ui/marks";

type Conflict = PlanView["conflicts"][number];

const NOTHING: Record<Conflict["field"], string> = {
  decision: "undecided",
  rating: "no stars",
  label: "no label",
  turn: "as it was taken",
  caption: "no caption",
  headline: "no headline",
  keywords: "no keywords",
  creator: "no creator",
  copyright: "no copyright",
};

function words(field: Conflict["field"], value: Conflict["ours"]): string {
  if (value === null || value === 0) return NOTHING[field];
  if (field === "rating") return `${value} ★`;
  return field === "decision" ? DECISION_WORDS[value as Decision] : String(value);
}

/** Marks that another program changed in the sidecars since both sides agreed. Theirs stay unless the person says
 * otherwise, one by one or for all. */
export function Conflicts({ plan, onMakeAnew }: { plan: PlanView; onMakeAnew: (wish: PlanWish) => void }) {
  const { conflicts, conflict_count: all, wish } = plan;
  if (!all || !wish) return null;
  const choose = (conflict: Conflict, ours: boolean) => {
    const { frame_id, field } = conflict;
    const others = (wish.mine ?? []).filter((own) => own.frame_id !== frame_id || own.field !== field);
    onMakeAnew({ ...wish, mine: ours ? [...others, { frame_id, field }] : others });
  };
  return (
    <section aria-label="Changed by another program" data-testid="conflicts" className="mt-3">
      <p>
        {count(all, "mark")} changed by another program since both sides agreed.{" "}
        {wish.all_mine ? "Yours are written over all of them." : "Theirs stay, unless you choose yours."}
      </p>
      <div className="mt-1 flex gap-2">
        <Button onClick={() => onMakeAnew({ ...wish, mine: [], all_mine: !wish.all_mine })}>
          {wish.all_mine ? "Leave theirs" : "Write mine for all"}
        </Button>
      </div>
      <table className="mt-2 w-full text-left">
        <thead className="text-xs text-ink2">
          <tr>
            <th className="pr-3 font-normal">File</th>
            <th className="pr-3 font-normal">Yours</th>
            <th className="font-normal">Theirs</th>
          </tr>
        </thead>
        <tbody>
          {conflicts.map((conflict, at) => {
            const { frame_id, field, name, ours, ours_at, theirs, theirs_at, mine } = conflict;
            const first = conflicts[at - 1]?.frame_id !== frame_id;
            return (
              <tr key={`${frame_id} ${field}`} className={`align-top ${first ? "border-t border-line" : ""}`}>
                <td className="py-1 pr-3 break-all">{first && name}</td>
                <td className="py-1 pr-3">
                  <Chip on={mine} disabled={wish.all_mine} onClick={() => choose(conflict, true)}>
                    {words(field, ours)}
                  </Chip>
                  <span className="block text-xs text-ink3">{ours_at && moment(ours_at)}</span>
                </td>
                <td className="py-1">
                  <Chip on={!mine} disabled={wish.all_mine} onClick={() => choose(conflict, false)}>
                    {words(field, theirs)}
                  </Chip>
                  <span className="block text-xs text-ink3">{moment(theirs_at)}</span>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {conflicts.length < all && <p className="text-xs text-ink3">The first {conflicts.length} are shown.</p>}
    </section>
  );
}
