import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { Button } from "../../ui/controls";
import { bytes, count } from "../../ui/format";
import { LargeDialog } from "../../ui/LargeDialog";

/** What became of every file of a copy from a card. */
export function ReportDialog({ planId }: { planId: number }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>Report …</Button>
      <LargeDialog title="What was copied" width="w-[min(960px,96vw)]" open={open} onOpenChange={setOpen}>
        <Report planId={planId} />
      </LargeDialog>
    </>
  );
}

function Report({ planId }: { planId: number }) {
  const { data } = useQuery({
    queryKey: ["report", planId],
    staleTime: 0,
    queryFn: () =>
      api.GET("/api/plans/{plan_id}/report", { params: { path: { plan_id: planId } } }).then(unwrap),
  });
  if (!data) return <p className="mt-3 text-ink2">Reading …</p>;
  const rest = data.copied_count - data.copied.length;
  return (
    <div className="mt-3 space-y-3" data-testid="report">
      <p>
        <b className="font-semibold">{count(data.copied_count, "copy", "copies")}</b>, each held against the
        card and read back from its disk. {count(data.skipped_count, "file")} here already.{" "}
        {data.failed_count > 0 && <b>{count(data.failed_count, "copy", "copies")} failed. </b>}
        {data.waiting > 0 && `${data.waiting} still to come. `}
        <a href={`/api/plans/${planId}/report/text`}>As a text, complete</a>
      </p>
      {data.failed.length > 0 && (
        <ul className="border-l-2 border-straw pl-2">
          {data.failed.map((one) => (
            <li key={one.source + one.reason}>{one.reason}</li>
          ))}
        </ul>
      )}
      <table className="w-full text-left text-xs">
        <thead className="text-ink2">
          <tr>
            <th className="font-normal">File</th>
            <th className="font-normal">Size</th>
            <th className="font-normal">SHA-256</th>
          </tr>
        </thead>
        <tbody>
          {data.copied.map((one, at) => (
            <tr
              key={one.target}
              className={`align-top ${data.copied[at - 1]?.source === one.source ? "text-ink2" : "border-t border-edge"}`}
            >
              <td className="py-0.5 pr-3 break-all">
                {one.target}
                {one.remark && <span className="block text-straw">{one.remark}</span>}
              </td>
              <td className="pr-3 whitespace-nowrap">{bytes(one.size)}</td>
              <td className="text-ink2" title={one.digest}>
                {one.digest.slice(0, 16)}…
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {rest > 0 && <p className="text-ink3">and {count(rest, "more copy", "more copies")}: in the text</p>}
      {data.skipped.length > 0 && (
        <details>
          <summary>{count(data.skipped_count, "file")} here already</summary>
          <ul className="text-xs text-ink2">
            {data.skipped.map((one) => (
              <li key={one.source} className="break-all">
                {one.source} is {one.target}
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}
