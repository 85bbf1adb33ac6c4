import { useOpenShoot } from "../../shoot/opening";
import { activeFrame, useShoot } from "../../shoot/store";
import { useCard } from "../../shoot/useCard";
import { useTitle } from "../../ui/useTitle";
import { Stage } from "./Stage";
import { useFollowWindow } from "./windows";

/** The active frame, large, in a window for a second display: it follows along, zoom included. */
export function LargeView({ shootId }: { shootId: number }) {
  useOpenShoot(shootId);
  useFollowWindow(shootId);
  useTitle(useCard(shootId)?.title, "the active frame, large");
  const frame = useShoot(activeFrame);
  return (
    <main className="flex h-full flex-col" aria-label="The active frame, large">
      {frame ? <Stage frame={frame} bare /> : <p className="m-auto text-ink2">Waiting for the bench …</p>}
    </main>
  );
}
