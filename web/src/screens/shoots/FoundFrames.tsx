import { useQuery } from "@tanstack/react-query";
import { Link } from "wouter";
import { api, pictureUrl, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { inWords } from "../../api/words";
import { addressOf } from "../../shoot/address";
import { count, day } from "../../ui/format";
import { Grain, Stars } from "../../ui/marks";
import { Thumbnail } from "../../ui/Thumbnail";

type Answer = components["schemas"]["SearchAnswer"];
type Found = components["schemas"]["FoundShoot"];
type FoundFrame = components["schemas"]["FoundFrame"];

const SHOWN = 12;
const BEHIND_MS = 1500;

/** What is found in all shoots: for each, how many frames, and the first of them. */
export function FoundFrames({ text }: { text: string }) {
  const { data, error } = useQuery({
    queryKey: ["search", text],
    queryFn: ({ signal }) =>
      api.GET("/api/search", { params: { query: { text, shown: SHOWN } }, signal }).then(unwrap),
    placeholderData: (before) => before,
    staleTime: 0,
    refetchInterval: ({ state }) => (state.data?.behind ? BEHIND_MS : false),
  });
  if (error) return <p role="alert">{inWords(error)}</p>;
  if (!data) return <p className="text-ink2">Looking …</p>;
  return (
    <section aria-label="What was found" className="space-y-6">
      <p role="status" className="text-ink2">
        {summary(data)}
      </p>
      {data.shoots.map((shoot) => (
        <InShoot key={shoot.id} shoot={shoot} />
      ))}
    </section>
  );
}

function summary({ shoots, frames, more, behind }: Answer): string {
  const found = `${count(frames, "frame")} in ${count(shoots.length, "shoot")}`;
  return [
    shoots.length
      ? more
        ? `More than ${found}, the newest of them.`
        : `${found}.`
      : "Nothing is called like that.",
    ...(behind ? [`${count(behind, "shoot")} changed just now and will be looked through too.`] : []),
  ].join(" ");
}

function InShoot({ shoot }: { shoot: Found }) {
  const more = shoot.frames - shoot.first.length;
  return (
    <article>
      <h2 className="pb-1.5 font-semibold">
        <Link href={addressOf(shoot.id, "wall")}>{shoot.title}</Link>
        <span className="pl-2 font-normal text-ink2">{count(shoot.frames, "frame")}</span>
      </h2>
      <ul className="flex flex-wrap gap-2">
        {shoot.first.map((frame) => (
          <li key={frame.id}>
            <FrameLink shootId={shoot.id} frame={frame} />
          </li>
        ))}
        {more > 0 && <li className="self-center px-2 text-ink2">and {count(more, "frame")} more</li>}
      </ul>
    </article>
  );
}

function FrameLink({ shootId, frame }: { shootId: number; frame: FoundFrame }) {
  const name = frame.name.slice(frame.name.lastIndexOf("/") + 1);
  const shape = frame.width && frame.height ? frame.width / frame.height : 1.5;
  return (
    <Link
      href={`${addressOf(shootId, "bench")}?frame=${frame.id}`}
      className={`block text-xs no-underline ${frame.decision === "reject" ? "opacity-60" : ""}`}
      title={`${frame.name}${frame.captured_at ? `, ${day(frame.captured_at)}` : ""}`}
    >
      <span className="block h-28 bg-pit" style={{ width: Math.round(112 * shape) }}>
        <Thumbnail
          src={pictureUrl(frame, frame.prepared ? "thumb" : "glimpse")}
          loading="lazy"
          className="size-full object-contain"
        />
      </span>
      <span className="flex max-w-44 items-center gap-1.5 pt-0.5 text-ink2">
        {frame.decision === "keep" && <Grain size={11} />}
        <span className="truncate">{name}</span>
        {frame.rating > 0 && <Stars rating={frame.rating} />}
      </span>
    </Link>
  );
}
