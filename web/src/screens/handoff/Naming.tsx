import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { useShoot } from "../../shoot/store";
import { Chip } from "../../ui/controls";
import { count, shortName } from "../../ui/format";
import { useRested } from "../../ui/useRested";

type Schemas = components["schemas"];
export type NamingWish = Schemas["NamingWish"];
type Per = Schemas["Per"];

const FIRST: NamingWish = {
  pattern: "{subject}_{date:%Y%m%d}_{counter:4}",
  words: {},
  start: 1,
  step: 1,
  per: "all",
};
const TOKENS =
  "{date} {time} {letter} {counter:4} {camera} {serial} {title} {scene} {group} {name} {number} {rating} {label}";
const PER: { per: Per; title: string }[] = [
  { per: "all", title: "over all" },
  { per: "day", title: "each day" },
  { per: "scene", title: "each scene" },
  { per: "label", title: "each label" },
];
/** So many names are shown. */
const SHOWN = 6;

interface Props {
  naming: NamingWish | null;
  /** Which frames. */
  show: string;
  into: Schemas["Into"];
  onChange: (naming: NamingWish | null) => void;
}

/** Other names for what leaves: a pattern, with the names before and after as they would be. */
export function Naming({ naming, show, into, onChange }: Props) {
  return (
    <fieldset aria-label="Names" className="mt-2">
      <div className="flex flex-wrap gap-1.5">
        <Chip on={!naming} onClick={() => onChange(null)}>
          names as they are
        </Chip>
        <Chip on={naming !== null} onClick={() => onChange(naming ?? FIRST)}>
          new names
        </Chip>
      </div>
      {naming && <Pattern naming={naming} show={show} into={into} onChange={onChange} />}
    </fieldset>
  );
}

function Pattern({ naming, show, into, onChange }: Props & { naming: NamingWish }) {
  const shootId = useShoot((s) => s.shootId);
  const revision = useShoot((s) => s.revision);
  const asked = useRested(naming, 200);
  const { data } = useQuery({
    queryKey: ["names", shootId, revision, show, into, asked],
    enabled: asked !== undefined && naming.pattern.trim() !== "",
    placeholderData: keepPreviousData,
    queryFn: () =>
      api
        .POST("/api/shoots/{shoot_id}/names", {
          params: { path: { shoot_id: shootId } },
          body: { show, into, naming: asked ?? naming },
        })
        .then(unwrap),
  });
  const set = (change: Partial<NamingWish>) => onChange({ ...naming, ...change });
  const field = "h-7 rounded border border-line bg-pit px-2 placeholder:text-ink3";
  return (
    <div className="space-y-2 pt-2">
      <input
        aria-label="Pattern of the names"
        value={naming.pattern}
        maxLength={200}
        spellCheck={false}
        onChange={(event) => set({ pattern: event.target.value })}
        className={`w-full ${field}`}
      />
      <p className="text-xs text-ink2">{TOKENS}; any other word in braces is asked for here.</p>
      {data?.words.map((word) => (
        <label key={word} className="flex items-center gap-2">
          <span className="w-24 truncate text-ink2">{word}</span>
          <input
            value={naming.words[word] ?? ""}
            maxLength={100}
            onChange={(event) => set({ words: { ...naming.words, [word]: event.target.value } })}
            className={`min-w-0 flex-1 ${field}`}
          />
        </label>
      ))}
      <div className="flex flex-wrap items-center gap-1.5 text-xs">
        <label className="flex items-center gap-1.5 text-ink2">
          counter from
          <input
            type="number"
            min={0}
            value={naming.start}
            onChange={(event) => set({ start: Math.max(0, Math.floor(Number(event.target.value))) })}
            className={`w-20 ${field}`}
          />
        </label>
        {PER.map(({ per, title }) => (
          <Chip key={per} on={per === naming.per} onClick={() => set({ per })}>
            {title}
          </Chip>
        ))}
      </div>
      {data?.missing && <p role="status">{data.missing}</p>}
      {data && data.clashes > 0 && (
        <p role="alert" className="border-l-2 border-straw pl-2">
          {count(data.clashes, "frame")} would share a name: these get a suffix. A {"{counter}"} tells them
          apart.
        </p>
      )}
      {data && data.names.length > 0 && (
        <table className="w-full text-xs" data-testid="names">
          <tbody>
            {data.names.slice(0, SHOWN).map(({ before, after, clash }) => (
              <tr key={before} className={clash ? "text-straw" : ""}>
                <td className="text-ink2">{shortName(before)}</td>
                <td>
                  → {after}
                  {clash && " (twice)"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
