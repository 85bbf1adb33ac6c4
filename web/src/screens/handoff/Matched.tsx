import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, pictureUrl, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { useLabels } from "../../shoot/labels";
import { useShoot } from "../../shoot/store";
import { Button, Chip } from "../../ui/controls";
import { count, shortName } from "../../ui/format";
import { type As, asMark, LIKED, REFUSED } from "./answerMarks";

type Read = components["schemas"]["AnswerRead"];
type Named = Read["named"][number];
type Verdict = Named["verdict"];

const NEXT: Record<Verdict, Verdict> = { like: "no", no: "none", none: "like" };
const SIGNS: Record<Verdict, string> = { like: "♥ like", no: "no", none: "nothing" };

interface Props {
  read: Read;
  onTaken: () => void;
  onLeft: () => void;
}

/** What an answer names, with its pictures, and what could not be told; and which marks are to become of it. */
export function Matched({ read, onTaken, onLeft }: Props) {
  const shootId = useShoot((s) => s.shootId);
  const labels = useLabels((s) => s.labels);
  const [said, setSaid] = useState(new Map(read.named.map((one) => [one.frame_id, one])));
  const [client, setClient] = useState(read.client);
  const [liked, setLiked] = useState<As>("label");
  const [label, setLabel] = useState(labels[0]?.id ?? "");
  const [refused, setRefused] = useState<As>("nothing");
  const take = useMutation({
    mutationFn: () =>
      api
        .POST("/api/shoots/{shoot_id}/answers", {
          params: { path: { shoot_id: shootId } },
          body: {
            client: client.trim(),
            said: [...said.values()]
              .filter(({ verdict, comment }) => verdict !== "none" || comment)
              .map(({ frame_id, verdict, comment }) => ({ frame_id, verdict, comment })),
            liked: asMark(liked, label),
            refused: asMark(refused, label),
          },
        })
        .then(unwrap),
    onSuccess: onTaken,
  });
  const turn = (one: Named) =>
    setSaid(new Map(said).set(one.frame_id, { ...one, verdict: NEXT[one.verdict] }));
  const add = (frame_id: number, quote: string) =>
    setSaid(
      new Map(said).set(frame_id, {
        frame_id,
        verdict: "like",
        how: "name",
        quote,
        comment: "",
      } satisfies Named),
    );
  const likes = [...said.values()].filter(({ verdict }) => verdict === "like").length;
  const noes = [...said.values()].filter(({ verdict }) => verdict === "no").length;
  return (
    <section className="mt-4 rounded-lg border border-edge p-3" data-testid="matched">
      <p>
        {said.size ? `${count(likes, "picture")} liked, ${noes} not.` : "No picture is named in it."}{" "}
        {said.size > 0 && <span className="text-ink2">A click changes what is said of one.</span>}
      </p>
      <ul className="mt-2 flex max-h-[40vh] flex-wrap gap-1.5 overflow-y-auto">
        {[...said.values()].map((one) => (
          <li key={one.frame_id}>
            <Picture
              id={one.frame_id}
              number={read.numbers[one.frame_id]}
              verdict={one.verdict}
              under={one.how === "typo" ? `“${one.quote}”?` : `“${one.quote}”`}
              title={one.comment}
              onClick={() => turn(one)}
            />
          </li>
        ))}
      </ul>
      {read.doubts.length > 0 && (
        <div className="mt-3" data-testid="doubts">
          <h3 className="font-semibold">{count(read.doubts.length, "thing")} could not be told</h3>
          <ul className="mt-1 space-y-1.5">
            {read.doubts.map((doubt, place) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: the same words may be unclear twice
              <li key={place} className="flex flex-wrap items-center gap-2">
                <span>
                  “{doubt.quote}” <span className="text-ink2">{doubt.why}</span>
                </span>
                {doubt.suggested.map((id) => (
                  <Picture
                    key={id}
                    small
                    id={id}
                    number={read.numbers[id]}
                    verdict={said.get(id)?.verdict ?? "none"}
                    under="meant?"
                    onClick={() => add(id, doubt.quote)}
                  />
                ))}
              </li>
            ))}
          </ul>
        </div>
      )}
      <div className="mt-3 space-y-2">
        <Becomes title="Liked becomes" marks={LIKED} chosen={liked} onChoose={setLiked} />
        {liked === "label" && (
          <fieldset aria-label="Which label" className="flex flex-wrap gap-1.5 pl-[110px]">
            {labels.map((one) => (
              <Chip key={one.id} on={one.id === label} onClick={() => setLabel(one.id)}>
                {one.name}
              </Chip>
            ))}
          </fieldset>
        )}
        <Becomes title="Not liked becomes" marks={REFUSED} chosen={refused} onChoose={setRefused} />
        <label className="flex items-center gap-2">
          <span className="w-[102px] text-ink2">Client</span>
          <input
            aria-label="Name of the client"
            value={client}
            maxLength={80}
            onChange={(event) => setClient(event.target.value)}
            className="h-7 w-56 rounded border border-line bg-pit px-2"
          />
        </label>
      </div>
      {take.error && (
        <p role="alert" className="mt-2 border-l-2 border-straw pl-3">
          {take.error.message}
        </p>
      )}
      <div className="mt-3 flex flex-wrap items-center gap-2">
        <Button
          look="main"
          disabled={!client.trim() || likes + noes === 0 || take.isPending}
          onClick={() => take.mutate()}
        >
          Take the answer over
        </Button>
        <Button onClick={onLeft}>Leave it</Button>
        <span className="text-ink2">one action of the client, which can be undone</span>
      </div>
    </section>
  );
}

interface BecomesProps {
  title: string;
  marks: { as: As; title: string }[];
  chosen: As;
  onChoose: (as: As) => void;
}

function Becomes({ title, marks, chosen, onChoose }: BecomesProps) {
  return (
    <fieldset aria-label={title} className="flex flex-wrap items-center gap-1.5">
      <span className="w-[104px] text-ink2">{title}</span>
      {marks.map((one) => (
        <Chip key={one.as} on={one.as === chosen} onClick={() => onChoose(one.as)}>
          {one.title}
        </Chip>
      ))}
    </fieldset>
  );
}

interface PictureProps {
  id: number;
  number: number | undefined;
  verdict: Verdict;
  under: string;
  title?: string;
  small?: boolean;
  onClick: () => void;
}

function Picture({ id, number, verdict, under, title = "", small = false, onClick }: PictureProps) {
  const frame = useShoot((s) => s.frames.get(id));
  if (!frame) return null;
  return (
    <button
      type="button"
      title={title || undefined}
      onClick={onClick}
      className={`block rounded border-2 p-0.5 text-left text-xs ${
        verdict === "like" ? "border-straw" : "border-transparent"
      } ${verdict === "none" ? "opacity-60" : ""}`}
    >
      <img
        src={pictureUrl(frame, "thumb")}
        alt={shortName(frame.name)}
        loading="lazy"
        className={`${small ? "h-10" : "h-20"} w-auto min-w-9 ${verdict === "no" ? "opacity-40 grayscale" : ""}`}
      />
      <span className="block max-w-32 truncate">
        <b className="font-semibold">{number}</b> {SIGNS[verdict]}
      </span>
      <span className="block max-w-32 truncate text-ink2">{under}</span>
    </button>
  );
}
