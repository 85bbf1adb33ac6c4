import type { components } from "../../api/schema";
import { Chip } from "../../ui/controls";

export type SizedWish = components["schemas"]["SizedWish"];
type Metadata = components["schemas"]["Metadata"];

const FIRST: SizedWish = { long_edge: 2048, quality: 88, sharpen: true, metadata: "contact" };
const METADATA: { metadata: Metadata; title: string }[] = [
  { metadata: "all", title: "all metadata" },
  { metadata: "contact", title: "contact only" },
  { metadata: "none", title: "none" },
];

interface Props {
  sized: SizedWish | null;
  onChange: (sized: SizedWish | null) => void;
}

/** Copies as JPEGs of a size, instead of the files themselves. */
export function AsJpegs({ sized, onChange }: Props) {
  const number = (name: "long_edge" | "quality", title: string, least: number, most: number) => (
    <label className="flex items-center gap-1.5 text-xs text-ink2">
      {title}
      <input
        type="number"
        min={least}
        max={most}
        value={sized?.[name] ?? 0}
        onChange={(event) =>
          sized && onChange({ ...sized, [name]: Math.min(most, Math.floor(Number(event.target.value))) })
        }
        className="h-7 w-20 rounded border border-line bg-pit px-2 text-ink"
      />
    </label>
  );
  return (
    <fieldset aria-label="JPEGs of a size" className="mt-2 flex min-w-0 flex-wrap items-center gap-1.5">
      <Chip on={sized !== null} onClick={() => onChange(sized ? null : FIRST)}>
        as JPEGs in sRGB
      </Chip>
      {sized && (
        <>
          {number("long_edge", "long edge, px", 64, 20_000)}
          {number("quality", "quality", 30, 100)}
          <Chip on={sized.sharpen} onClick={() => onChange({ ...sized, sharpen: !sized.sharpen })}>
            sharpened for screens
          </Chip>
          {METADATA.map(({ metadata, title }) => (
            <Chip
              key={metadata}
              on={metadata === sized.metadata}
              onClick={() => onChange({ ...sized, metadata })}
            >
              {title}
            </Chip>
          ))}
        </>
      )}
    </fieldset>
  );
}
