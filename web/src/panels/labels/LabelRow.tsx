import { takenBy } from "../../keys/inForce";
import type { Label } from "../../shoot/labels";
import { Button } from "../../ui/controls";
import { SHAPES, Shape, type ShapeName } from "../../ui/shapes";
import { COLOURS, FIELD } from "./looks";

interface RowProps {
  label: Label;
  programs: string[];
  colours: Record<string, string>;
  frames: number;
  others: Label[];
  onChange: (to: Partial<Label>, what: string) => void;
  onMerge: (into: string) => void;
  onDrop: () => void;
  /** Something cannot be, and why. */
  onWrong: (message: string) => void;
}

export function LabelRow({
  label,
  programs,
  colours,
  frames,
  others,
  onChange,
  onMerge,
  onDrop,
  onWrong,
}: RowProps) {
  const { name, meaning, key, colour, shape, texts = {} } = label;
  return (
    <tr>
      <td>
        <input
          aria-label={`Key of ${name}`}
          value={(key ?? "").toUpperCase()}
          onChange={(event) => {
            const wanted = event.target.value.slice(-1).toLowerCase() || null;
            const taken = wanted && takenBy(wanted, (id) => /^(filter-)?label-/.test(id));
            if (taken) onWrong(`${wanted.toUpperCase()} is the key for: ${taken.title}. Choose another.`);
            else onChange({ key: wanted }, "on another key");
          }}
          className={`${FIELD} w-8 text-center`}
        />
      </td>
      <td>
        <span className="flex items-center gap-1">
          <Shape shape={shape} colour={colours[colour] ?? "#888"} size={16} />
          <select
            aria-label={`Shape of ${name}`}
            value={shape}
            onChange={(event) => onChange({ shape: event.target.value as ShapeName }, "in another shape")}
            className={FIELD}
          >
            {Object.keys(SHAPES).map((one) => (
              <option key={one}>{one}</option>
            ))}
          </select>
        </span>
      </td>
      <td>
        <select
          aria-label={`Colour of ${name}`}
          value={colour}
          onChange={(event) =>
            onChange({ colour: event.target.value as Label["colour"] }, "in another colour")
          }
          className={FIELD}
        >
          {COLOURS.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
      </td>
      <td>
        <input
          aria-label={`Name of ${label.id}`}
          value={name}
          maxLength={80}
          onChange={(event) => onChange({ name: event.target.value }, "renamed")}
          className={`${FIELD} w-32`}
        />
      </td>
      <td>
        <input
          aria-label={`Meaning of ${name}`}
          value={meaning}
          maxLength={300}
          onChange={(event) => onChange({ meaning: event.target.value }, "given a meaning")}
          className={`${FIELD} w-full min-w-40`}
        />
      </td>
      {programs.map((program) => (
        <td key={program}>
          <input
            aria-label={`Text of ${name} for ${program}`}
            value={texts[program] ?? ""}
            placeholder={name}
            maxLength={80}
            onChange={(event) => {
              const { [program]: _, ...others } = texts;
              const text = event.target.value;
              onChange(
                { texts: text ? { ...others, [program]: text } : others },
                `with a text for ${program}`,
              );
            }}
            className={`${FIELD} w-28`}
          />
        </td>
      ))}
      <td className="text-right text-ink2">{frames}</td>
      <td>
        <select
          aria-label={`Merge ${name} into`}
          value=""
          onChange={(event) => event.target.value && onMerge(event.target.value)}
          className={`${FIELD} w-24`}
        >
          <option value="">…</option>
          {others.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
      </td>
      <td>
        <Button onClick={onDrop} aria-label={`Delete ${name}`}>
          Delete
        </Button>
      </td>
    </tr>
  );
}
