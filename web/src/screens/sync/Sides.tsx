import { pictureUrl } from "../../api/client";
import { useShoot } from "../../shoot/store";
import { shortName } from "../../ui/format";
import { countedInWords, type SyncRow } from "./rules";

/** So many pictures stand for them. */
const SHOWN = 24;

interface Props {
  title: string;
  why: string;
  rows: SyncRow[];
  on: boolean;
  onSwitch: (on: boolean) => void;
}

/** What goes out, or comes in: the frames, and how many marks of which kind. */
export function Sides({ title, why, rows, on, onSwitch }: Props) {
  const frames = useShoot((s) => s.frames);
  if (!rows.length) return null;
  const ids = [...new Set(rows.map((row) => row.frame_id))];
  return (
    <section className="mt-5" data-testid={`sync-${rows[0]?.side}`}>
      <label className="flex min-h-6 w-fit items-center gap-2">
        <input type="checkbox" checked={on} onChange={(event) => onSwitch(event.target.checked)} />
        <b className="font-semibold">{title}</b>
        <span className="text-ink2">
          {why}: {countedInWords(rows)}
        </span>
      </label>
      <ul className={`mt-1.5 flex flex-wrap items-center gap-1.5 ${on ? "" : "opacity-45"}`}>
        {ids.slice(0, SHOWN).map((id) => {
          const frame = frames.get(id);
          const said = rows.filter((row) => row.frame_id === id).map((row) => row[side(row)]);
          return (
            frame && (
              <li key={id} title={`${shortName(frame.name)}: ${said.join(", ")}`}>
                <img
                  src={pictureUrl(frame, "thumb")}
                  alt={`${shortName(frame.name)}: ${said.join(", ")}`}
                  loading="lazy"
                  className="h-14 w-auto min-w-9 rounded-xs"
                />
              </li>
            )
          );
        })}
        {ids.length > SHOWN && <li className="text-ink2">and {ids.length - SHOWN} more</li>}
      </ul>
    </section>
  );
}

function side(row: SyncRow): "here_said" | "there_said" {
  return row.side === "out" ? "here_said" : "there_said";
}
