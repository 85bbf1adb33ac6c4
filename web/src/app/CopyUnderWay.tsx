import { useCallback, useState } from "react";
import { Link } from "wouter";
import { type News, useNews } from "../api/events";
import { addressOf } from "../shoot/address";
import { Hint } from "../ui/controls";
import { figure } from "../ui/format";

/** How far a plan with this shoot's files is, wherever one is; gone when it has ended. */
export function CopyUnderWay({ shootId }: { shootId: number }) {
  const [now, setNow] = useState<{ done: number; total: number } | null>(null);
  useNews(
    useCallback(
      (news: News) => {
        if (news.shoot_id !== shootId) return;
        if (news.kind === "plan") setNow(news);
        if (news.kind === "plan-ended") setNow(null);
      },
      [shootId],
    ),
  );
  if (!now) return null;
  return (
    <Hint text="Files are being copied or moved: see Handoff">
      <Link
        href={addressOf(shootId, "handoff")}
        className="text-xs whitespace-nowrap text-ink2"
        data-testid="under-way"
      >
        file {figure(now.done)} of {figure(now.total)}
      </Link>
    </Hint>
  );
}
