import { useLabelOf, useLabels } from "../../shoot/labels";
import { Shape } from "../../ui/shapes";

/** The shape of a label; of a text that nobody defined, an empty tag. */
export function LabelSign({ named, size = 13 }: { named: string; size?: number }) {
  const label = useLabelOf(named);
  const colour = useLabels((s) => (label ? s.colours[label.colour] : undefined));
  if (label && colour) return <Shape shape={label.shape} colour={colour} size={size} />;
  return (
    <span
      aria-hidden="true"
      className="inline-block shrink-0 rounded-xs border border-dashed border-current"
      style={{ width: size, height: size }}
    />
  );
}

/** The label of a frame: its shape, and its name where there is room for it. */
export function LabelTag({ text, named = true, size }: { text: string; named?: boolean; size?: number }) {
  const label = useLabelOf(text);
  const name = label?.name ?? text;
  return (
    <span className="flex items-center gap-1" title={`label ${name}${label ? "" : ", not defined here"}`}>
      <LabelSign named={text} size={size} />
      {named || !label ? (
        <span className="truncate">{name}</span>
      ) : (
        <span className="sr-only">label {name}</span>
      )}
    </span>
  );
}
