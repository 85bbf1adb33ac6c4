import type { FallbackProps } from "react-error-boundary";
import { useOutbox, waits } from "../shoot/outbox/outbox";
import { useShoot } from "../shoot/store";
import { Button } from "../ui/controls";
import { count } from "../ui/format";

/** In the place of a page that could not be drawn: why, that the marks are safe, and the ways back. */
export function Failure({ error, resetErrorBoundary }: FallbackProps) {
  const waiting = useOutbox((s) => s.entries.filter(waits).length);
  const shootId = useShoot((s) => s.shootId);
  const reason = error instanceof Error ? error.message : String(error);
  return (
    <main className="grid h-full place-items-center p-6">
      <div role="alert" className="max-w-xl space-y-3">
        <h1 className="text-base font-semibold">This page could not be shown</h1>
        <p className="border-l-2 border-straw pl-3 break-words text-ink2">{reason}</p>
        <p>
          {waiting
            ? `${count(waiting, "mark")} ${waiting === 1 ? "waits" : "wait"} in this browser and will be sent. All others are kept by Winnow.`
            : "All marks are kept by Winnow: nothing of your work is lost."}
        </p>
        <div className="flex gap-2">
          <Button look="main" onClick={() => window.location.reload()}>
            Load the page again
          </Button>
          <Button onClick={resetErrorBoundary}>Try to go on</Button>
          <a href={shootId ? `/shoots/${shootId}/wall` : "/"} className="self-center">
            {shootId ? "To the wall of this shoot" : "To the shoots"}
          </a>
          <a href="/" className="self-center">
            All shoots
          </a>
        </div>
      </div>
    </main>
  );
}
