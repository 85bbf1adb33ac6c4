import type { ReactNode } from "react";
import { useConnection } from "../api/connection";
import { dismissError, useErrors } from "../shoot/errors";
import { useRested } from "../ui/useRested";

/** A line that breaks for a moment is not worth a word, ms. */
const MOMENT_MS = 500;

/** What is wrong, on top of every screen: that the server does not answer, and what it refused. */
export function Alerts() {
  const error = useErrors((s) => s.error);
  const isLost = useRested(
    useConnection((s) => s.lost),
    MOMENT_MS,
  );
  return (
    <>
      {isLost && (
        <Alert>
          Winnow does not answer: is it still running? You may go on: what you mark is kept in this browser
          and sent by itself.
        </Alert>
      )}
      {error && (
        <Alert>
          {error}
          <button type="button" className="ml-auto underline" onClick={dismissError}>
            Close
          </button>
        </Alert>
      )}
    </>
  );
}

/** A line over the whole width. */
export function Alert({ children }: { children: ReactNode }) {
  return (
    <div
      role="alert"
      className="flex shrink-0 items-center gap-3 border-b border-edge bg-warm px-4 py-1.5 text-ink"
    >
      {children}
    </div>
  );
}
