import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { inWords } from "../../api/words";
import { Button } from "../../ui/controls";
import { bytes, count, moment } from "../../ui/format";
import { Part } from "./Part";

const SHOWN = 3;

/** Where this Winnow keeps its own, what there is to fall back on, and its end. */
export function LookedAfter() {
  const client = useQueryClient();
  const { data, error } = useQuery({
    queryKey: ["upkeep"],
    queryFn: () => api.GET("/api/upkeep").then(unwrap),
    staleTime: 0,
  });
  const backUp = useMutation({
    mutationFn: () => api.POST("/api/upkeep/backup").then(unwrap),
    onSuccess: (now) => client.setQueryData(["upkeep"], now),
  });
  if (error) return <p role="alert">{inWords(error)}</p>;
  if (!data) return null;
  const last = data.backups.slice(0, SHOWN);
  return (
    <Part title="Looked after">
      <section className="space-y-1.5">
        <h3 className="text-xs text-ink2">
          {count(data.backups.length, "backup")} of marks, history and plans
        </h3>
        <ul>
          {last.map(({ name, made_at, size }) => (
            <li key={name} className="tabular-nums">
              {moment(made_at)}, {bytes(size)}
            </li>
          ))}
        </ul>
        <Button disabled={backUp.isPending} onClick={() => backUp.mutate()}>
          {backUp.isPending ? "Backing up …" : "Back up now"}
        </Button>
        {backUp.error && <p role="alert">{backUp.error.message}</p>}
      </section>
      <dl className="grid grid-cols-[auto_1fr] gap-x-3 text-xs">
        <dt className="text-ink2">Data</dt>
        <dd className="break-all">{data.data}</dd>
        <dt className="text-ink2">Log</dt>
        <dd className="break-all">{data.log}</dd>
        <dt className="text-ink2">Free on that disk</dt>
        <dd>{bytes(data.free)}</dd>
        <dt className="text-ink2">Version</dt>
        <dd>{data.version}</dd>
      </dl>
      {data.may_end && <Ending />}
    </Part>
  );
}

/** Ends the server: for who started it without a terminal. */
function Ending() {
  const [asked, setAsked] = useState(false);
  const end = useMutation({ mutationFn: () => api.POST("/api/upkeep/end") });
  if (end.isSuccess) {
    return (
      <p role="status">
        Winnow has ended. Everything is kept; start it again as you did, or close this page.
      </p>
    );
  }
  if (!asked) return <Button onClick={() => setAsked(true)}>End Winnow …</Button>;
  return (
    <p className="flex flex-wrap items-center gap-2">
      End it for every browser? What is under way goes on at the next start.
      <Button look="main" disabled={end.isPending} onClick={() => end.mutate()}>
        End it
      </Button>
      <Button onClick={() => setAsked(false)}>No</Button>
    </p>
  );
}
