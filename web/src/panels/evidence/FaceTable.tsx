import { useQuery } from "@tanstack/react-query";
import { memo, useEffect, useMemo, useRef } from "react";
import { api, type Evidence, type Frame, unwrap } from "../../api/client";
import { lookClose } from "../../pictures/aimStore";
import { cropOf } from "../../pictures/crops";
import { useEvidenceOf } from "../../shoot/evidence";
import { activate } from "../../shoot/moving";
import { shortName, sigmaShort } from "../../ui/format";
import { CoverSet } from "./CoverSet";
import { type Place, type Row, rowsOf, standing, tableFrom } from "./faceRows";
import { Gauge } from "./Gauge";
import { toggleRow, useTable } from "./table";

/** Frames of one group in the table at most. */
const MOST = 24;

/** Rows are people, columns the frames of the group; without faces, places: the subject, and points put down. */
export function FaceTable({ frame, group, wide }: { frame: Frame; group: Frame[]; wide: boolean }) {
  const frames = useMemo(() => group.slice(0, MOST), [group]);
  const evidence = useEvidenceOf(frames);
  const points = useTable((s) => s.points.get(frame.group));
  const out = useTable((s) => s.out.get(frame.group));
  const places = usePlaces(frames, evidence, points);
  const rows = useMemo(() => rowsOf(frames, evidence, places), [frames, evidence, places]);
  if (frames.length < 2 || rows.length === 0) return null;
  const { best, frame: leading } = standing(rows, out ?? new Set());
  const side = Math.min(
    wide ? 120 : 76,
    Math.max(wide ? 72 : 34, Math.floor((wide ? 440 : 178) / frames.length) - 6),
  );
  return (
    <section data-testid="face-table" aria-label={tableFrom(rows)}>
      <h2 className="mb-1 flex items-baseline justify-between gap-2 text-xs font-semibold text-ink2">
        {tableFrom(rows)}
        <span className="font-normal">{frames.length} frames</span>
      </h2>
      <div className="overflow-x-auto pb-1">
        <table className="border-separate border-spacing-0.5">
          <thead>
            <tr>
              <td />
              {frames.map((column, at) => (
                <th
                  key={column.id}
                  scope="col"
                  className={`text-center text-[10.5px] font-normal whitespace-nowrap ${column.id === frame.id ? "text-ink" : "text-ink3"}`}
                  title={at === leading ? "Best for most rows" : undefined}
                >
                  <span className={at === leading ? "border-b-2 border-straw" : ""}>
                    {shortName(column.name).slice(wide ? -8 : -4)}
                  </span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.id} className={out?.has(row.id) ? "opacity-35" : ""}>
                <th scope="row" className="align-middle">
                  <button
                    type="button"
                    aria-pressed={!out?.has(row.id)}
                    aria-label={`${row.title} counts`}
                    title={`${row.title}: leave out or take in`}
                    onClick={() => toggleRow(frame.group, row.id)}
                    className="min-h-6 min-w-6 text-[11px] font-normal text-ink2 hover:text-ink"
                  >
                    {row.short}
                  </button>
                </th>
                {frames.map((column, at) => (
                  <td key={column.id} className="p-0">
                    <TableCell
                      row={row}
                      at={at}
                      column={column}
                      side={side}
                      active={column.id === frame.id}
                      best={best.get(row.id) === at}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <CoverSet frame={frame} people={rows.filter((row) => row.id.startsWith("person")).length} />
    </section>
  );
}

const EYES: Record<string, string> = { closed: "closed", narrowed: "narrowed", open: "", unknown: "" };

const TableCell = memo(function TableCell(props: {
  row: Row;
  at: number;
  column: Frame;
  side: number;
  active: boolean;
  best: boolean;
}) {
  const { row, at, column, side, active, best } = props;
  const cell = row.cells[at];
  if (!cell) return <span className="block rounded-xs bg-pit" style={{ width: side, height: side }} />;
  const words = [
    `${row.title} in ${shortName(column.name)}`,
    cell.eyes && `eyes ${cell.eyes}`,
    cell.sigma !== null && `${sigmaShort(cell.sigma)} px`,
    best && "best of the row",
  ].filter(Boolean);
  return (
    <button
      type="button"
      aria-label={words.join(", ")}
      onClick={(event) => {
        activate(column.id, event.timeStamp);
        lookClose(column.id, { x: cell.x, y: cell.y }, event.timeStamp);
      }}
      className={`relative block overflow-hidden rounded-xs border-2 ${best ? "border-straw" : active ? "border-ink3" : "border-transparent"}`}
      style={{ width: side + 4, height: side + 11 }}
    >
      <Crop frame={column} cell={cell} side={side} />
      {cell.eyes && EYES[cell.eyes] && (
        <span className="absolute inset-x-0 bottom-[7px] bg-black/70 text-center text-[9px] leading-3 text-white">
          {EYES[cell.eyes]}
        </span>
      )}
      {cell.sigma !== null && <Gauge sigma={cell.sigma} className="mt-px w-full" />}
    </button>
  );
});

function Crop({
  frame,
  cell,
  side,
}: {
  frame: Frame;
  cell: { x: number; y: number; reach: number };
  side: number;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { x, y, reach } = cell;
  const pixels = Math.round(side * (window.devicePixelRatio || 1));
  useEffect(() => {
    let current = true;
    void cropOf(frame, { x, y, reach }, pixels).then((bitmap) => {
      const context = canvas.current?.getContext("2d");
      // One that was let go of meanwhile has no width.
      if (current && context && bitmap?.width) context.drawImage(bitmap, 0, 0, pixels, pixels);
    });
    return () => {
      current = false;
    };
  }, [frame, x, y, reach, pixels]);
  return <canvas ref={canvas} width={pixels} height={pixels} style={{ width: side, height: side }} />;
}

const NOWHERE: Place[] = [];

/** Where each frame shows the points that rows are made of: the subject where there are no faces, and points put down. */
function usePlaces(
  frames: Frame[],
  evidence: (Evidence | undefined)[],
  points: { frame: number; x: number; y: number }[] = [],
) {
  const faceless = evidence.every((found) => found && !found.faces?.length);
  const leadAt = Math.max(
    0,
    frames.findIndex((frame) => frame.lead),
  );
  const subject = evidence[leadAt]?.focus?.subject;
  const lead = frames[leadAt];
  const asked = [
    ...(faceless && subject && lead
      ? [{ frame: lead.id, x: subject.x, y: subject.y, title: "Subject" }]
      : []),
    ...points.map((point, at) => ({ ...point, title: `Point ${at + 1}` })),
  ];
  const ids = frames.map((frame) => frame.id);
  const { data } = useQuery({
    queryKey: ["places", ids.join(), JSON.stringify(asked)],
    enabled: asked.length > 0 && frames.length > 1,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
    queryFn: () =>
      Promise.all(
        asked.map(async ({ frame, x, y, title }) => {
          const among = ids.filter((id) => id !== frame);
          const answer = await api.GET("/api/frames/{frame_id}/same-point", {
            params: { path: { frame_id: frame }, query: { x, y, among } },
          });
          const found = unwrap(answer).map((p): [number, { x: number; y: number }] => [p.frame_id, p]);
          return { title, at: new Map([[frame, { x, y }], ...found]) };
        }),
      ),
  });
  return data ?? NOWHERE;
}
