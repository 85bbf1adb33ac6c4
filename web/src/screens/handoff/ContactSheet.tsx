import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { inWords } from "../../api/words";
import { useShoot } from "../../shoot/store";
import { Button, Chip } from "../../ui/controls";
import { saveFile } from "../../ui/saveFile";
import type { Scope } from "./scope";

const PER_PAGE = [
  { columns: 3, rows: 4 },
  { columns: 4, rows: 5 },
  { columns: 5, rows: 7 },
  { columns: 7, rows: 10 },
];

/** The frames on paper: a PDF with numbers, names and marks. */
export function ContactSheet({ scope, title }: { scope: Scope; title: string }) {
  const shootId = useShoot((s) => s.shootId);
  const [layout, setLayout] = useState(1);
  const [paper, setPaper] = useState<"a4" | "letter">("a4");
  const [names, setNames] = useState(true);
  const [marks, setMarks] = useState(true);
  const make = useMutation({
    mutationFn: async () => {
      const { data, error } = await api.POST("/api/shoots/{shoot_id}/contact-sheet", {
        params: { path: { shoot_id: shootId } },
        body: { ...scope.wish, title, paper, names, marks, ...(PER_PAGE[layout] ?? { columns: 4, rows: 5 }) },
        parseAs: "blob",
      });
      if (!data) throw error;
      saveFile(`${title || "contact sheet"}.pdf`, data as unknown as Blob, "application/pdf");
    },
  });
  return (
    <section className="mt-6 border-t border-edge pt-4">
      <h3 className="font-semibold">On paper</h3>
      <fieldset aria-label="Contact sheet" className="mt-2 flex flex-wrap gap-1.5">
        {PER_PAGE.map(({ columns, rows }, place) => (
          <Chip key={columns} on={place === layout} onClick={() => setLayout(place)}>
            {columns * rows} a page
          </Chip>
        ))}
        <Chip on={paper === "a4"} onClick={() => setPaper("a4")}>
          A4
        </Chip>
        <Chip on={paper === "letter"} onClick={() => setPaper("letter")}>
          Letter
        </Chip>
        <Chip on={names} onClick={() => setNames(!names)}>
          names
        </Chip>
        <Chip on={marks} onClick={() => setMarks(!marks)}>
          marks
        </Chip>
      </fieldset>
      {make.error && (
        <p role="alert" className="mt-2 border-l-2 border-straw pl-3">
          {inWords(make.error)}
        </p>
      )}
      <div className="mt-2">
        <Button disabled={!scope.frames || make.isPending} onClick={() => make.mutate()}>
          {make.isPending ? "Making it …" : "Save a contact sheet (PDF)"}
        </Button>
      </div>
    </section>
  );
}
