import { useShoot } from "../shoot/store";
import { Hint } from "../ui/controls";
import { count, duration, figure } from "../ui/format";

/** How far the background work is; gone when it is done. */
export function Preparing() {
  const progress = useShoot((s) => s.progress);
  const arriving = useShoot((s) => s.arriving);
  if (arriving) return <output className="text-xs text-ink2">fetching the other frames …</output>;
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
        ? `reading ${figure(progress.read)} of ${figure(progress.listed)}`
        : progress.state === "deriving"
          ? `previews ${figure(progress.previewed)} of ${figure(progress.listed)}`
          : `measuring ${figure(progress.measured)} of ${figure(progress.listed)}`;
  const rest = progress.seconds_left ? `${duration(progress.seconds_left)} left` : "";
  const rate = progress.rate ? `${progress.rate.toFixed(progress.rate < 10 ? 1 : 0)}/s` : "";
  return (
    <Hint
      text={[
        `Of ${count(progress.listed, "frame")}: ${figure(progress.previewed)} previews, ${figure(progress.measured)} measured`,
        rate,
        rest,
        "groups, focus and faces come as they are measured, near where you look first",
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
