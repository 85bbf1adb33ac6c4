import { useState } from "react";
import { pictureUrl } from "../../api/client";
import { useShoot } from "../../shoot/store";
import { Button, Chip } from "../../ui/controls";
import { count, moment, shortName } from "../../ui/format";
import {
  all,
  FIELD_WORDS,
  keyOfRow,
  newest,
  type Rule,
  type SyncRow,
  starsFromThere,
  type Take,
} from "./rules";

const RULES: { title: string; rule: Rule }[] = [
  { title: "the newer wins", rule: newest },
  { title: "stars from there, labels from here", rule: starsFromThere },
  { title: "all from there", rule: all("theirs") },
  { title: "all from here", rule: all("ours") },
  { title: "all later", rule: all("later") },
];
const TAKES: { take: Take; title: string }[] = [
  { take: "theirs", title: "theirs" },
  { take: "ours", title: "ours" },
  { take: "later", title: "later" },
];
const AT_FIRST = 60;

interface Props {
  rows: SyncRow[];
  takes: Map<string, Take>;
  onTake: (rows: SyncRow[], rule: Rule) => void;
}

/** Marks that were changed here and on disk: both values, who and when, and which of them counts. */
export function BothSides({ rows, takes, onTake }: Props) {
  const frames = useShoot((s) => s.frames);
  const [shown, setShown] = useState(AT_FIRST);
  if (!rows.length) return null;
  return (
    <section aria-label="Changed on both sides" className="mt-3">
      <div className="flex flex-wrap items-center gap-1.5">
        <span className="text-ink2">{rows.length === 1 ? "This one:" : `For all ${rows.length}:`}</span>
        {RULES.map(({ title, rule }) => (
          <Chip key={title} on={false} onClick={() => onTake(rows, rule)}>
            {title}
          </Chip>
        ))}
      </div>
      <table className="mt-2 w-full text-left">
        <thead className="text-xs text-ink2">
          <tr className="border-b border-edge">
            <th className="py-1 pr-3 font-normal">Frame</th>
            <th className="pr-3 font-normal">Property</th>
            <th className="px-3 font-normal">Here</th>
            <th className="px-3 font-normal">Last agreed</th>
            <th className="px-3 font-normal">On disk</th>
            <th className="pl-3 font-normal">Take</th>
          </tr>
        </thead>
        <tbody>
          {rows.slice(0, shown).map((row) => {
            const frame = frames.get(row.frame_id);
            const take = takes.get(keyOfRow(row)) ?? "later";
            const name = frame ? shortName(frame.name) : String(row.frame_id);
            return (
              <tr key={keyOfRow(row)} className="border-b border-edge align-middle" data-testid="both-row">
                <td className="py-1.5 pr-3">
                  <span className="flex items-center gap-2.5">
                    {frame && (
                      <img
                        src={pictureUrl(frame, "thumb")}
                        alt=""
                        loading="lazy"
                        className="h-12 w-16 rounded-xs object-cover"
                      />
                    )}
                    {name}
                  </span>
                </td>
                <td className="pr-3">{FIELD_WORDS[row.field]}</td>
                <Value said={row.here_said} who={row.here_by} at={row.here_at} counts={take === "ours"} />
                <td className="px-3 text-ink2">{row.base_said}</td>
                <Value said={row.there_said} who={row.file} at={row.there_at} counts={take === "theirs"} />
                <td className="pl-3">
                  <fieldset className="flex gap-1.5" aria-label={`${FIELD_WORDS[row.field]} of ${name}`}>
                    {TAKES.map((one) => (
                      <Chip
                        key={one.take}
                        on={one.take === take}
                        onClick={() => onTake([row], all(one.take))}
                      >
                        {one.title}
                      </Chip>
                    ))}
                  </fieldset>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {shown < rows.length && (
        <Button className="mt-2" onClick={() => setShown(shown + 5 * AT_FIRST)}>
          {count(rows.length - shown, "more")} …
        </Button>
      )}
    </section>
  );
}

function Value(props: { said: string; who: string | null; at: string | null; counts: boolean }) {
  const { said, who, at, counts } = props;
  return (
    <td className={`border-x-2 px-3 py-1.5 ${counts ? "border-straw bg-warm" : "border-transparent"}`}>
      <span className="block max-w-72 truncate" title={said}>
        {said}
      </span>
      <span className="block text-xs text-ink2">{[who, at && moment(at)].filter(Boolean).join(" · ")}</span>
    </td>
  );
}
