import type { Companion } from "../api/client";
import { follow, useCompany } from "../shoot/company";
import { useShoot } from "../shoot/store";
import { Hint } from "../ui/controls";
import { shortName } from "../ui/format";

/** Whoever has no name is at the machine that Winnow runs on, or in another window of it. */
const UNNAMED = "person";
const MOST = 3;

/** Who else has the shoot open, and where they are: a click comes along. */
export function InCompany() {
  const others = useCompany((s) => s.others);
  const followed = useCompany((s) => s.followed);
  const proposes = useCompany((s) => s.proposes);
  return (
    <>
      {proposes && (
        <Hint text="They stand on the frames under your name, and count once they are taken over. What is decided already stays">
          <span className="text-xs whitespace-nowrap text-ink2">you propose</span>
        </Hint>
      )}
      {others.size > 0 && <Others others={[...others.values()]} followed={followed} />}
    </>
  );
}

function Others({ others, followed }: { others: Companion[]; followed: string | null }) {
  return (
    <ul aria-label="Others in this shoot" className="flex gap-1.5">
      {others.slice(0, MOST).map((one) => (
        <li key={one.page}>
          <Other one={one} followed={one.page === followed} />
        </li>
      ))}
    </ul>
  );
}

function Other({ one, followed }: { one: Companion; followed: boolean }) {
  const frame = useShoot((s) => (one.frame_id === null ? undefined : s.frames.get(one.frame_id)));
  const inView = useShoot((s) => one.frame_id === null || s.places.has(one.frame_id));
  const name = one.name === UNNAMED ? "another window" : one.name;
  const at = frame ? shortName(frame.name) : "";
  const where = inView ? `is on the ${one.screen}` : "is at a frame that your filter hides";
  return (
    <Hint
      text={
        followed
          ? `You come along with ${name}: go anywhere to stop`
          : `${name} ${where}: click to come along`
      }
    >
      <button
        type="button"
        aria-pressed={followed}
        onClick={() => follow(one.page)}
        className={`flex min-h-7 max-w-48 items-center gap-1.5 rounded-md border px-2 text-xs whitespace-nowrap ${
          followed ? "border-straw bg-held text-ink" : "border-line bg-raised hover:border-ink3"
        }`}
      >
        <span className="truncate">{followed ? `with ${name}` : name}</span>
        <span className="text-ink2">{at}</span>
      </button>
    </Hint>
  );
}
