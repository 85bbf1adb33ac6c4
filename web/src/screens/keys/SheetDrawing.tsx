import type { Ref } from "react";
import type { Bound } from "../../keys/bindings";
import type { Section } from "../../keys/command";
import { capName, keyName } from "../../keys/press";
import type { KeySet } from "../../keys/sets";
import { capAt, ROWS } from "./board";

/** An A4 page on its side, in units of which its letters are eleven high. */
const WIDTH = 1188;
const HEIGHT = 840;
const MARGIN = 24;
const CAP = 40;
const GAP = 4;
const COLUMNS = 5;
const LINE = 19;
const BOARD_TOP = 46;
const LIST_TOP = BOARD_TOP + ROWS.length * (CAP + GAP) + 16;

/** Lines and tints that print: the words carry the meaning. */
const TINTS: Record<Section, string> = {
  Decide: "#f3e3ab",
  Rate: "#e4e4e4",
  Label: "#cfe3f0",
  Move: "#dde8dd",
  Stage: "#e3dbf0",
  Look: "#d3ebe0",
  Group: "#f0e0d0",
  Select: "#d8def2",
  Filter: "#f2d9d9",
  Go: "#ededed",
};

type Command = Bound & { section: Section };

interface Props {
  ref: Ref<SVGSVGElement>;
  set: KeySet;
  commands: Command[];
}

/** The keyboard with what its keys do on the bench, and every command with its keys. */
export function SheetDrawing({ ref, set, commands }: Props) {
  const onBench = commands.filter(({ screens }) => screens.includes("bench"));
  return (
    <svg
      ref={ref}
      xmlns="http://www.w3.org/2000/svg"
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      width="100%"
      role="img"
      aria-label={`Keys of the set ${set.name}`}
      fontFamily="'Source Sans 3 Variable', sans-serif"
      fontSize="11"
      fill="#111"
    >
      <rect width={WIDTH} height={HEIGHT} fill="#fff" />
      <text x={MARGIN} y="30" fontSize="18" fontWeight="600">
        Winnow: keys
      </text>
      <text x={MARGIN + 130} y="30" fontSize="12">
        {set.name} · the keyboard shows the bench, each key alone
      </text>
      <Board set={set} commands={onBench} />
      <List commands={commands} />
    </svg>
  );
}

function Board({ set, commands }: { set: KeySet; commands: Command[] }) {
  const widest = Math.max(...ROWS.map((caps) => caps.reduce((sum, { width }) => sum + width, 0)));
  const unit = (WIDTH - 2 * MARGIN) / widest;
  return ROWS.map((caps, row) => {
    let x = MARGIN;
    const y = BOARD_TOP + row * (CAP + GAP);
    return caps.map(({ code, width }) => {
      const cap = capAt(code, set.by);
      const command = commands.find(({ keys }) => keys.includes(cap.press));
      const left = x;
      const wide = width * unit - GAP;
      x += width * unit;
      const [first, second] = inTwo(command?.title ?? "", Math.floor(wide / 4.4));
      return (
        <g key={code}>
          <rect
            x={left}
            y={y}
            width={wide}
            height={CAP}
            rx="4"
            fill={command ? TINTS[command.section] : "#fff"}
            stroke="#777"
            strokeWidth="0.7"
          />
          <text x={left + 4} y={y + 12} fontSize="10" fontWeight="700">
            {capName(cap.printed)}
          </text>
          <text x={left + 4} y={y + 24} fontSize="8">
            {first}
          </text>
          <text x={left + 4} y={y + 34} fontSize="8">
            {second}
          </text>
        </g>
      );
    });
  });
}

function List({ commands }: { commands: Command[] }) {
  const sections = [...new Set(commands.map(({ section }) => section))];
  const lines = sections.flatMap((section) => [
    { head: section as string, command: null },
    ...commands.filter((one) => one.section === section).map((command) => ({ head: "", command })),
  ]);
  const rows = Math.ceil(lines.length / COLUMNS);
  const line = Math.min(LINE, (HEIGHT - MARGIN - LIST_TOP) / rows);
  const wide = (WIDTH - 2 * MARGIN) / COLUMNS;
  return lines.map(({ head, command }, at) => {
    const x = MARGIN + Math.floor(at / rows) * wide;
    const y = LIST_TOP + ((at % rows) + 1) * line;
    if (!command)
      return (
        <text key={head} x={x} y={y} fontWeight="700">
          {head}
        </text>
      );
    const keys = command.keys.map(keyName).join(", ");
    return (
      <g key={command.id}>
        <text x={x} y={y}>
          {cut(command.title, 42 - keys.length)}
        </text>
        <text x={x + wide - 12} y={y} textAnchor="end" fontWeight="600">
          {keys}
        </text>
      </g>
    );
  });
}

function cut(text: string, most: number): string {
  return text.length > most ? `${text.slice(0, most - 1)}…` : text;
}

/** A text on two lines of so many letters. */
function inTwo(text: string, most: number): [string, string] {
  if (text.length <= most) return [text, ""];
  const at = text.lastIndexOf(" ", most);
  const end = at > 0 ? at : most;
  return [text.slice(0, end), cut(text.slice(end).trim(), most)];
}
