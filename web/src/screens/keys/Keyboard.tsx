import type { Bound, By } from "../../keys/bindings";
import type { Section } from "../../keys/command";
import { useLayout } from "../../keys/layout";
import { capName } from "../../keys/press";
import { capAt, ROWS } from "./board";

/** Tints that tell the kinds of commands apart; the words on the keys carry it. */
const TINTS: Record<Section, string> = {
  Decide: "#4a3f1c",
  Rate: "#3b3b3b",
  Label: "#1f3947",
  Move: "#333a33",
  Stage: "#3a3147",
  Look: "#243f36",
  Group: "#42352a",
  Select: "#2d3550",
  Filter: "#472f2f",
  Go: "#303030",
};

interface Props {
  commands: (Bound & { section: Section })[];
  by: By;
  /** What is held beside the keys: "", "shift+", … */
  held: string;
  /** The press that is searched for. */
  found: string | null;
  onPress: (press: string) => void;
}

/** The keyboard as it is laid out here, with what each key does. */
export function Keyboard({ commands, by, held, found, onPress }: Props) {
  useLayout();
  return (
    <fieldset
      className="flex min-w-0 shrink-0 flex-col gap-1 rounded-lg border border-edge bg-wall p-3"
      aria-label="Keyboard"
    >
      {ROWS.map((caps) => (
        <div key={caps[0]?.code} className="flex gap-1">
          {caps.map(({ code, width }) => {
            const cap = capAt(code, by);
            const press = held + cap.press;
            const command = commands.find((one) => one.keys.includes(press));
            return (
              <button
                key={code}
                type="button"
                title={command?.title}
                onClick={() => onPress(press)}
                className={`h-12 min-w-0 overflow-hidden rounded border px-1 text-left ${
                  press === found ? "border-2 border-dashed border-straw" : "border-line"
                }`}
                style={{ flex: width, background: command && TINTS[command.section] }}
              >
                <b className="block truncate text-[11px] font-semibold">{capName(cap.printed)}</b>
                <span className="block truncate text-[10px] leading-tight text-ink2">{command?.title}</span>
              </button>
            );
          })}
        </div>
      ))}
    </fieldset>
  );
}
