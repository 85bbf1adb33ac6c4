import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { tell } from "../../shoot/errors";
import { useShoot } from "../../shoot/store";
import { Button, Chip } from "../../ui/controls";
import { FileButton } from "../../ui/FileButton";
import { count, dayOf } from "../../ui/format";
import { Matched } from "./Matched";
import type { Scope } from "./scope";

/** What a client said of a proof set: read, seen with its pictures, taken over as marks. */
export function ClientAnswer({ scope }: { scope: Scope }) {
  const shootId = useShoot((s) => s.shootId);
  const client = useQueryClient();
  const path = { shoot_id: shootId };
  const key = ["answers", shootId];
  const [text, setText] = useState("");
  const [proof, setProof] = useState<string | null | undefined>(undefined);
  const { data } = useQuery({
    queryKey: key,
    staleTime: 0,
    queryFn: () => api.GET("/api/shoots/{shoot_id}/answers", { params: { path } }).then(unwrap),
  });
  const proofs = data?.proofs ?? [];
  const to = proof === undefined ? (proofs[0]?.id ?? null) : proof;
  const read = useMutation({
    mutationFn: (said: string) =>
      api
        .POST("/api/shoots/{shoot_id}/answers/read", {
          params: { path },
          body: { text: said, ...(to ? { proof: to } : { frames: scope.ids() }) },
        })
        .then(unwrap),
  });
  const forget = useMutation({
    mutationFn: (answer_id: number) =>
      api
        .DELETE("/api/shoots/{shoot_id}/answers/{answer_id}", { params: { path: { ...path, answer_id } } })
        .then(unwrap),
    onError: tell,
    onSettled: () => client.invalidateQueries({ queryKey: key }),
  });
  const readFile = (said: string) => {
    setText(said);
    read.mutate(said);
  };
  return (
    <section>
      <h2 className="text-[15px] font-semibold">A client's answer</h2>
      <p className="mt-1 max-w-prose text-ink2">
        The file that the page of a proof set gave back, a table, or free text as it stands in a mail. It is
        shown with its pictures before anything is marked.
      </p>
      <fieldset aria-label="Answer to" className="mt-3 flex flex-wrap items-center gap-1.5">
        <span className="text-ink2">To</span>
        {proofs.slice(0, 8).map((one) => (
          <Chip
            key={one.id}
            on={one.id === to}
            title={`${count(one.frames, "picture")}, ${dayOf(one.made_at)}`}
            onClick={() => setProof(one.id)}
          >
            <span className="max-w-52 truncate">{one.title}</span>
          </Chip>
        ))}
        <Chip on={to === null} onClick={() => setProof(null)}>
          the {count(scope.frames, scope.noun)}, numbered in the order of the wall
        </Chip>
      </fieldset>
      <textarea
        aria-label="What the client wrote"
        rows={4}
        value={text}
        maxLength={200_000}
        placeholder="I love 12, 15–18 and the second of the kiln, not 20 …"
        onChange={(event) => setText(event.target.value)}
        className="mt-3 w-full max-w-2xl rounded border border-line bg-pit px-2 py-1 placeholder:text-ink3"
      />
      <div className="mt-1 flex flex-wrap gap-2">
        <Button look="main" disabled={!text.trim() || read.isPending} onClick={() => read.mutate(text)}>
          Read the answer
        </Button>
        <FileButton
          label="Answer of a client"
          accept=".json,.csv,.txt,application/json,text/*"
          onText={readFile}
        >
          Choose a file …
        </FileButton>
      </div>
      {read.error && (
        <p role="alert" className="mt-2 border-l-2 border-straw pl-3">
          {read.error.message}
        </p>
      )}
      {read.data && (
        <Matched
          key={read.submittedAt}
          read={read.data}
          onTaken={() => {
            read.reset();
            setText("");
            void client.invalidateQueries({ queryKey: key });
          }}
          onLeft={() => read.reset()}
        />
      )}
      {(data?.answers.length ?? 0) > 0 && (
        <section className="mt-6 border-t border-edge pt-4" data-testid="answers">
          <h3 className="font-semibold">Answers so far</h3>
          {(data?.agreed.length ?? 0) > 0 && (
            <p className="mt-1">All of them like {count(data?.agreed.length ?? 0, "picture")}.</p>
          )}
          <ul className="mt-1 space-y-1">
            {data?.answers.map((one) => (
              <li key={one.id} className="flex flex-wrap items-baseline gap-x-3">
                <b className="font-semibold">{one.client}</b>
                <span className="text-ink2">
                  {one.liked.length} liked, {one.refused.length} not, {dayOf(one.at)}
                </span>
                <Button onClick={() => forget.mutate(one.id)}>Forget it</Button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </section>
  );
}
