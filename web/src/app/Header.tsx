import { FilterLine, hasOwnLine } from "../panels/filter/FilterLine";
import { goToScreen } from "../shoot/address";
import { useShoot } from "../shoot/store";
import { useCard } from "../shoot/useCard";
import { useWalk } from "../shoot/walk/store";
import { Hint } from "../ui/controls";
import { Home } from "../ui/Home";
import { CopyUnderWay } from "./CopyUnderWay";
import { InCompany } from "./InCompany";
import { MarkedElsewhere } from "./MarkedElsewhere";
import { Preparing } from "./Preparing";
import { Proposed } from "./Proposed";
import { hasFrames, SCREENS, type Screen } from "./screens";

export function Header({ screen }: { screen: Screen }) {
  const shootId = useShoot((s) => s.shootId);
  const card = useCard(shootId);
  const inPass = useWalk((s) => s.walk !== null);
  const ownLine = useShoot((s) => hasOwnLine(s.filter));
  return (
    <header className="flex min-h-11 shrink-0 flex-wrap items-center gap-x-3 border-b border-edge bg-wall px-3.5">
      <Home />
      <h1 className="max-w-44 truncate text-ink2 max-[1180px]:max-w-20" title={card?.folders.join("\n")}>
        {card?.title}
      </h1>
      <nav aria-label="Screens" className="flex min-h-11 items-center">
        {SCREENS.map((tab) => (
          <Tab
            key={tab.screen}
            {...tab}
            current={tab.screen === screen}
            halfDone={Boolean(card?.half_done)}
          />
        ))}
      </nav>
      {hasFrames(screen) && !inPass && <FilterLine />}
      <span className={`flex-1 ${ownLine || inPass ? "" : "hidden max-[1100px]:block"}`} />
      <InCompany />
      <Proposed />
      <MarkedElsewhere />
      <CopyUnderWay shootId={shootId} />
      <Preparing />
    </header>
  );
}

interface TabProps {
  screen: Screen;
  title: string;
  current: boolean;
  /** A plan of the shoot is half done. */
  halfDone: boolean;
}

function Tab({ screen, title, current, halfDone }: TabProps) {
  const told = screen === "handoff" && halfDone;
  return (
    <Hint text={told ? "Handoff: a plan is half done and waits for you" : title} command={screen}>
      <button
        type="button"
        aria-current={current ? "page" : undefined}
        onClick={() => goToScreen(screen)}
        className={`min-h-7 border-b-2 px-2 ${
          current ? "border-straw text-ink" : "border-transparent text-ink2 hover:text-ink"
        }`}
      >
        {title}
        {told && (
          <span className="ml-1.5 inline-block size-1.5 rounded-full bg-straw align-middle">
            <span className="sr-only">, a plan is half done</span>
          </span>
        )}
      </button>
    </Hint>
  );
}
