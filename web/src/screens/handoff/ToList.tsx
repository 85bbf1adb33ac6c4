import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { filterInForce } from "../../shoot/filterInForce";
import { useShoot } from "../../shoot/store";
import { Chip } from "../../ui/controls";
import { count } from "../../ui/format";

const FORMS = [
  { form: "csv", title: "table (CSV)" },
  { form: "json", title: "JSON" },
  { form: "names", title: "names, one a line" },
] as const;
type Form = (typeof FORMS)[number]["form"];

/** A list of the frames in view, to be saved. */
export function ToList() {
  const shootId = useShoot((s) => s.shootId);
  const shown = useShoot((s) => s.visible.length);
  const show = useShoot((s) => filterInForce(s).show);
  const [form, setForm] = useState<Form>("csv");
  const [chosen, setChosen] = useState<string[] | null>(null);
  const { data: columns = [] } = useQuery({
    queryKey: ["list-columns"],
    queryFn: () => api.GET("/api/list-columns").then(unwrap),
  });
  const usual = columns.filter((one) => one.usual).map(({ id }) => id);
  const now = chosen ?? usual;
  const asked = new URLSearchParams([
    ["form", form],
    ...(show ? [["show", show]] : []),
    ...(form === "names" ? [] : now.map((id) => ["columns", id])),
  ]);
  return (
    <section>
      <h2 className="mb-1 text-[15px] font-semibold">A list of {count(shown, "frame")}</h2>
      <p className="text-ink2">
        Of {show ? <span className="text-ink">{show}</span> : "all frames"}, in capture order: nothing is
        touched.
      </p>
      <div className="mt-3 flex flex-wrap gap-1.5">
        {FORMS.map((one) => (
          <Chip key={one.form} on={one.form === form} onClick={() => setForm(one.form)}>
            {one.title}
          </Chip>
        ))}
      </div>
      {form !== "names" && (
        <details className="mt-2">
          <summary className="min-h-6 cursor-default text-ink2">
            {count(now.length, "column")}: {now.length ? titles(columns, now) : "the usual ones"}
          </summary>
          <div className="flex flex-wrap gap-1.5 pt-1">
            {columns.map(({ id, title }) => (
              <Chip
                key={id}
                on={now.includes(id)}
                onClick={() => setChosen(now.includes(id) ? now.filter((one) => one !== id) : [...now, id])}
              >
                {title}
              </Chip>
            ))}
          </div>
        </details>
      )}
      <a
        href={`/api/shoots/${shootId}/list?${asked}`}
        download
        className="mt-3 inline-block min-h-7 rounded-md border border-line bg-raised px-3 py-1 no-underline hover:border-ink3"
      >
        Save the list
      </a>
    </section>
  );
}

function titles(columns: { id: string; title: string }[], ids: string[]): string {
  return ids.map((id) => columns.find((one) => one.id === id)?.title ?? id).join(", ");
}
