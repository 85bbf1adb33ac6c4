import { Popover } from "radix-ui";
import { Link } from "wouter";
import type { RatingRule } from "../api/client";
import type { Screen } from "../keys/command";
import { keyOf } from "../keys/commands";
import { Chip, Hint, Kbd } from "../parts/controls";
import { count, duration } from "../parts/format";
import { Grain } from "../parts/marks";
import { SizeSlider } from "../wall/SizeSlider";
import { EvidenceFilter } from "./EvidenceFilter";
import { setFilter, showsAll, toggleDecision, toggleFilter, useShoot } from "./store";
import { tryAgain } from "./tryAgain";
import { useCard } from "./useCard";

const TABS: { screen: Screen; title: string; command: string }[] = [
  { screen: "wall", title: "Wall", command: "wall" },
  { screen: "bench", title: "Bench", command: "bench" },
  { screen: "handoff", title: "Handoff", command: "handoff" },
];

export function Header({ screen, go }: { screen: Screen; go: (screen: Screen) => void }) {
  const shootId = useShoot((s) => s.shootId);
  const card = useCard(shootId);
  return (
    <header className="flex h-11 shrink-0 items-center gap-3 border-b border-edge bg-wall px-3.5">
      <Link
        href="/"
        className="flex items-center gap-1.5 text-[15px] font-semibold no-underline"
        aria-label="winnow: all shoots"
      >
        <Grain size={17} />
        winnow
      </Link>
      <h1 className="max-w-44 truncate text-ink2" title={card?.folders.join("\n")}>
        {card?.title}
      </h1>
      <nav aria-label="Screens" className="flex">
        {TABS.map((tab) => (
          <Hint
            key={tab.screen}
            text={
              tab.screen === "handoff" && card?.half_done
                ? "Handoff: a plan is half done and waits for you"
                : tab.title
            }
            command={tab.command}
          >
            <button
              type="button"
              aria-current={tab.screen === screen ? "page" : undefined}
              onClick={() => go(tab.screen)}
              className={`min-h-7 border-b-2 px-2 ${
                tab.screen === screen
                  ? "border-straw text-ink"
                  : "border-transparent text-ink2 hover:text-ink"
              }`}
            >
              {tab.title}
              {tab.screen === "handoff" && card?.half_done && (
                <span className="ml-1.5 inline-block size-1.5 rounded-full bg-straw align-middle">
                  <span className="sr-only">, a plan is half done</span>
                </span>
              )}
            </button>
          </Hint>
        ))}
      </nav>
      {screen !== "handoff" && <FilterLine />}
      {screen === "wall" && <SizeSlider />}
      <Preparing />
    </header>
  );
}

function FilterLine() {
  const filter = useShoot((s) => s.filter);
  const on = useShoot((s) => s.filterOn);
  const view = useShoot((s) => s.view);
  const tally = view?.tally;
  const everything = showsAll(filter);
  const dim = !on && !everything ? "opacity-50" : "";
  return (
    <fieldset
      aria-label="Filter"
      className="flex h-8 min-w-0 flex-1 items-center gap-1.5 rounded-md border border-edge bg-room px-2"
    >
      <span className={`flex min-w-0 items-center gap-1.5 ${dim}`}>
        <Hint text="Only keepers" command="filter-picks">
          <Chip on={filter.decisions.includes("pick")} onClick={() => toggleDecision("pick")}>
            <Grain size={10} /> <span className="max-[1180px]:sr-only">keepers</span>{" "}
            {tally?.decisions.pick ?? ""}
          </Chip>
        </Hint>
        <Hint text="Only undecided frames" command="filter-undecided">
          <Chip on={filter.decisions.includes("undecided")} onClick={() => toggleDecision("undecided")}>
            undecided {tally?.decisions.undecided ?? ""}
          </Chip>
        </Hint>
        <Hint text="Only rejects" command="filter-rejects">
          <Chip on={filter.decisions.includes("reject")} onClick={() => toggleDecision("reject")}>
            <span className="line-through">rejects</span> {tally?.decisions.reject ?? ""}
          </Chip>
        </Hint>
        <RatingFilter />
        <EvidenceFilter />
        {(tally?.warned ?? 0) > 0 && (
          <Hint text="Files that cannot be read, are damaged, or have other marks on disk">
            <Chip on={filter.warned} onClick={() => setFilter({ warned: !filter.warned })}>
              file notes {tally?.warned}
            </Chip>
          </Hint>
        )}
        {(tally?.again ?? 0) > 0 && (
          <Hint text="Files that could not be read for a reason that may have passed" command="try-again">
            <Chip on={false} onClick={() => void tryAgain(useShoot.getState().shootId)}>
              try {tally?.again} again
            </Chip>
          </Hint>
        )}
      </span>
      <span className="flex-1" />
      <output className="truncate text-ink2" data-testid="shown">
        {view ? `${view.ids.length.toLocaleString("en")} of ${view.total.toLocaleString("en")}` : ""}
        {view && (view.hidden ? "" : " · none hidden")}
      </output>
      {view && (view.hidden > 0 || (!on && !everything)) && (
        <Hint text={on ? "Show all; the filter is kept" : "Back to the filter"} command="filter">
          <button
            type="button"
            onClick={toggleFilter}
            className="flex min-h-6 items-center gap-1.5 whitespace-nowrap"
          >
            <span className="underline underline-offset-2">
              {on ? `${view.hidden.toLocaleString("en")} hidden` : "filter off"}
            </span>
            <Kbd>{keyOf("filter")}</Kbd>
          </button>
        </Hint>
      )}
    </fieldset>
  );
}

const RULES: { rule: RatingRule; word: string }[] = [
  { rule: "at_least", word: "at least" },
  { rule: "exactly", word: "exactly" },
  { rule: "at_most", word: "at most" },
];

function RatingFilter() {
  const { ratingRule, stars } = useShoot((s) => s.filter);
  const ratings = useShoot((s) => s.view?.tally.ratings) ?? [];
  const word = RULES.find((r) => r.rule === ratingRule)?.word;
  const title = ratingRule === "unrated" ? "unrated" : word ? `${word} ${stars} ★` : "stars";
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Chip on={ratingRule !== null} aria-label={`Filter by stars: ${title}`}>
          {title}
        </Chip>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={6}
          className="z-40 rounded-md border border-edge bg-wall p-3 shadow-xl"
          aria-label="Filter by stars"
        >
          <table>
            <tbody>
              {RULES.map(({ rule, word: text }) => (
                <tr key={rule}>
                  <th scope="row" className="pr-3 text-left font-normal text-ink2">
                    {text}
                  </th>
                  {[1, 2, 3, 4, 5].map((n) => (
                    <td key={n} className="p-0.5">
                      <Chip
                        on={ratingRule === rule && stars === n}
                        aria-label={`${text} ${n} stars`}
                        onClick={() => setFilter({ ratingRule: rule, stars: n })}
                      >
                        {n} ★
                      </Chip>
                    </td>
                  ))}
                </tr>
              ))}
              <tr className="text-center text-xs text-ink2">
                <th scope="row" className="pr-3 text-left font-normal">
                  frames
                </th>
                {[1, 2, 3, 4, 5].map((n) => (
                  <td key={n}>{ratings[n] ?? 0}</td>
                ))}
              </tr>
            </tbody>
          </table>
          <div className="mt-2 flex gap-2">
            <Chip
              on={ratingRule === "unrated"}
              onClick={() => setFilter({ ratingRule: "unrated", stars: 0 })}
            >
              unrated {ratings[0] ?? 0}
            </Chip>
            <Chip on={ratingRule === null} onClick={() => setFilter({ ratingRule: null, stars: 0 })}>
              any
            </Chip>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** How far the background work is; gone when it is done. */
function Preparing() {
  const progress = useShoot((s) => s.progress);
  if (!progress || progress.state === "done" || progress.state === "waiting") return null;
  if (progress.message) {
    return (
      <output className="max-w-72 truncate text-ink" title={progress.message}>
        {progress.message}
      </output>
    );
  }
  const words =
    progress.state === "listing"
      ? "listing files"
      : progress.state === "reading"
        ? `reading ${progress.read} of ${progress.listed}`
        : progress.state === "deriving"
          ? `previews ${progress.previewed} of ${progress.listed}`
          : `measuring ${progress.measured} of ${progress.listed}`;
  const rest = progress.seconds_left ? `${duration(progress.seconds_left)} left` : "";
  const rate = progress.rate ? `${progress.rate.toFixed(progress.rate < 10 ? 1 : 0)}/s` : "";
  return (
    <Hint
      text={[
        `Of ${count(progress.listed, "frame")}: ${progress.previewed} previews, ${progress.measured} measured`,
        rate,
        rest,
      ]
        .filter(Boolean)
        .join(" · ")}
    >
      <output className="w-32 text-xs text-ink2">
        <span className="block truncate">{words}</span>
        <span className="block h-0.5 bg-line">
          <span
            className="block h-full bg-straw"
            style={{ width: `${(100 * progress.measured) / Math.max(1, progress.listed)}%` }}
          />
        </span>
        <span className="block truncate">{[rate, rest].filter(Boolean).join(" · ")}</span>
      </output>
    </Hint>
  );
}
