import { useQuery } from "@tanstack/react-query";
import type { Frame, FrameDetails } from "../../api/client";
import { detailsOf } from "../../shoot/details";
import { exposureInWords, focalInWords, spaceInWords } from "../../ui/capture";
import { bytes, copiesInWords, day } from "../../ui/format";
import { Measured } from "./Measured";

/** What is known of the active frame: what was measured, beside its group, and its capture data. */
export function Evidence({ frame, wide }: { frame: Frame; wide: boolean }) {
  const { data } = useQuery({ ...detailsOf(frame), placeholderData: (before) => before });
  return (
    <aside
      aria-label="Evidence"
      className={`${wide ? "w-[500px]" : "w-[236px]"} shrink-0 overflow-y-auto border-l border-edge bg-wall px-3 py-3 max-[900px]:h-64 max-[900px]:w-full max-[900px]:border-t max-[900px]:border-l-0`}
    >
      {/* Under the stage, where that is upright. */}
      <div className="max-[900px]:columns-3 max-[900px]:gap-4">
        {!frame.problem && <Measured frame={frame} wide={wide} />}
        {(frame.note || frame.copies > 0) && (
          <section className="mb-4 border-l-2 border-straw pl-2.5">
            <h2 className="font-semibold text-ink2">Note</h2>
            {frame.note && <p>{frame.note}</p>}
            {frame.copies > 0 && <p>{copiesInWords(frame)}</p>}
          </section>
        )}
        {data && <Capture data={data} current={data.id === frame.id} />}
      </div>
    </aside>
  );
}

function Capture({ data, current }: { data: FrameDetails; current: boolean }) {
  const rows: [string, string | null][] = [
    [
      "Taken",
      data.captured_at
        ? `${day(data.captured_at)}, ${data.captured_at.slice(11, 19)}`
        : "no time in the file",
    ],
    ["Exposure", exposureInWords(data).join(" · ") || null],
    [
      "Correction",
      data.bias_ev ? `${data.bias_ev > 0 ? "+" : "−"}${Math.abs(data.bias_ev).toFixed(1)} EV` : null,
    ],
    ["Focal length", focalInWords(data) || null],
    ["Lens", data.lens],
    ["Camera", data.camera],
    ["Serial", data.serial],
    ["Colours", spaceInWords(data)],
    ["Picture", data.width && data.height ? `${data.width} × ${data.height} px` : null],
  ];
  return (
    <div className={current ? "" : "opacity-60"}>
      <h2 className="mb-1.5 text-xs font-semibold text-ink2">Capture</h2>
      <dl className="space-y-1.5">
        {rows.map(
          ([name, value]) =>
            value && (
              <div key={name}>
                <dt className="text-[11.5px] text-ink3">{name}</dt>
                <dd>{value}</dd>
              </div>
            ),
        )}
      </dl>
      <h2 className="mt-5 mb-1.5 text-xs font-semibold text-ink2">
        {data.files.length === 1 ? "File" : "Files of this frame"}
      </h2>
      <ul className="space-y-1.5">
        {data.files.map((file) => (
          <li key={file.path} title={file.path}>
            <span className="block break-all">{file.path.slice(file.path.lastIndexOf("/") + 1)}</span>
            <span className="text-[11.5px] text-ink3">
              {file.role} · {bytes(file.size)}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}
