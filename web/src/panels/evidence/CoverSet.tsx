import { useQuery } from "@tanstack/react-query";
import { api, type Frame, unwrap } from "../../api/client";
import { keyOf } from "../../keys/inForce";
import { labelCoverSet } from "../../shoot/coverSet";
import { activate } from "../../shoot/moving";
import { useShoot } from "../../shoot/store";
import { Kbd } from "../../ui/controls";
import { shortName } from "../../ui/format";

/** The fewest frames of the group in which everybody is well shown: eyes open, facing, sharp. */
export function CoverSet({ frame, people }: { frame: Frame; people: number }) {
  const names = useShoot((s) => s.frames);
  const { data } = useQuery({
    queryKey: ["cover-set", frame.group, frame.judged],
    enabled: people > 1,
    queryFn: () =>
      api.GET("/api/frames/{frame_id}/cover-set", { params: { path: { frame_id: frame.id } } }).then(unwrap),
  });
  if (!data || people < 2 || (!data.frames.length && !data.nobody.length)) return null;
  const named = (numbers: number[]) => numbers.map((person) => person + 1).join(", ");
  return (
    <p className="pt-1 text-xs text-ink2" data-testid="cover-set">
      {data.frames.length > 0 && "Everybody well shown: "}
      {data.frames.map(({ id, people: whom }, at) => (
        <span key={id}>
          {at > 0 && "; "}
          <button
            type="button"
            onClick={(event) => activate(id, event.timeStamp)}
            className="min-h-6 text-ink underline decoration-dotted underline-offset-2"
          >
            {shortName(names.get(id)?.name ?? "").slice(-4)}
          </button>
          {data.frames.length > 1 && ` for ${named(whom)}`}
        </span>
      ))}
      {data.nobody.length > 0 &&
        `${data.frames.length ? "; " : ""}nowhere eyes open, facing and sharp: ${named(data.nobody)}`}
      {data.frames.length > 1 && (
        <button
          type="button"
          onClick={(event) => void labelCoverSet(frame.id, event.timeStamp)}
          className="ml-2 inline-flex min-h-6 items-center gap-1 underline underline-offset-2"
        >
          label them Combine <Kbd>{keyOf("cover-set")}</Kbd>
        </button>
      )}
    </p>
  );
}
