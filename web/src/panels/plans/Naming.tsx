import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { components } from "../../api/schema";
import { Chip } from "../../ui/controls";
import { count, shortName } from "../../ui/format";
import { useRested } from "../../ui/useRested";
import { Patterns } from "./Patterns";

type Schemas = components["schemas"];
export type NamingWish = Schemas["NamingWish"];
export type Per = Schemas["Per"];

/** To begin with. */
export const FIRST_NAMING: NamingWish = {
  pattern: "{subject}_{date:%Y%m%d}_{counter:4}",
  words: {},
  start: 1,
  step: 1,
  per: "all",
};
const OF_SHOTS = "{date} {time} {letter} {counter:4} {camera} {serial} {title} {name} {number}";
const OF_FRAMES = `${OF_SHOTS} {scene} {group} {rating} {label}`;
const PER: { per: Per; title: string }[] = [
  { per: "all", title: "over all" },
  { per: "day", title: "each day" },
  { per: "scene", title: "each scene" },
  { per: "label", title: "each label" },
];
/** So many names are shown. */
const SHOWN = 8;

interface Props {
  naming: NamingWish | null;
  onChange: (naming: NamingWish | null) => void;
  /** What the names depend on besides the pattern, and how to ask for them. */
  of: unknown[];
  ask: (naming: NamingWish) => Promise<Schemas["NamesView"]>;
  /** The files are no frames yet: scenes and labels are not known. */
  arriving?: boolean;
  /** Names must be new: there is no "as they are". */
  always?: boolean;
}

/** Other names for files: a pattern, with the names before and after as they would be. */
export function Naming({ naming, always = false, ...rest }: Props) {
  const { onChange } = rest;
  return (
    <fieldset aria-label="Names" className="mt-2 min-w-0">
      {!always && (
        <div className="flex flex-wrap gap-1.5">
          <Chip on={!naming} onClick={() => onChange(null)}>
            names as they are
          </Chip>
          <Chip on={naming !== null} onClick={() => onChange(naming ?? FIRST_NAMING)}>
            new names
          </Chip>
        </div>
      )}
      {naming && <Pattern {...rest} naming={naming} />}
    </fieldset>
  );
}

type PatternProps = Omit<Props, "naming" | "always"> & { naming: NamingWish };

function Pattern({ naming, of, ask, arriving = false, onChange }: PatternProps) {
  const asked = useRested(naming, 200);
  const { data } = useQuery({
    queryKey: ["names", ...of, asked],
    enabled: asked !== undefined && naming.pattern.trim() !== "",
    placeholderData: keepPreviousData,
    staleTime: 0,
    queryFn: () => ask(asked ?? naming),
  });
  const set = (change: Partial<NamingWish>) => onChange({ ...naming, ...change });
  const field = "h-7 rounded border border-line bg-pit px-2 placeholder:text-ink3";
  const restarts = PER.filter(({ per }) => !arriving || per === "all" || per === "day");
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
      <p className="text-xs text-ink2">
        {arriving ? OF_SHOTS : OF_FRAMES}; any other word in braces is asked for here.
      </p>
      <Patterns naming={naming} onUse={onChange} />
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
        {restarts.map(({ per, title }) => (
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
        <table className="w-full text-left text-xs" data-testid="names">
          <thead className="text-ink2">
            <tr>
              <th className="font-normal">now</th>
              <th className="font-normal">then</th>
            </tr>
          </thead>
          <tbody>
            {data.names.slice(0, SHOWN).map(({ before, after, clash }) => (
              <tr key={before} className={`border-t border-edge ${clash ? "text-straw" : ""}`}>
                <td className="py-0.5 pr-3 text-ink2">{shortName(before)}</td>
                <td className="py-0.5">
                  {after}
                  {clash && " (twice)"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {data && data.frames > SHOWN && (
        <p className="text-xs text-ink3">and {count(data.frames - SHOWN, "more frame")}</p>
      )}
    </div>
  );
}
