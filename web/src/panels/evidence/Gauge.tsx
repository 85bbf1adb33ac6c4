import { sharpness } from "../../pictures/blurmap";

/** A short bar, lit as far as the subject is sharp. */
export function Gauge({ sigma, className = "w-9" }: { sigma: number; className?: string }) {
  return (
    <span className={`block h-1.5 overflow-hidden rounded-full bg-line ${className}`}>
      <span
        className="block h-full bg-ink2"
        style={{ width: `${Math.max(6, Math.round(100 * sharpness(sigma)))}%` }}
      />
    </span>
  );
}
