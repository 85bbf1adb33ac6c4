import { useEffect, useRef } from "react";
import { allBound } from "../../keys/inForce";
import { useLayout } from "../../keys/layout";
import { keySet, useKeySets } from "../../keys/sets";
import { loadLabels, useLabels } from "../../shoot/labels";
import { Button } from "../../ui/controls";
import { savePicture } from "../../ui/saveFile";
import { useTitle } from "../../ui/useTitle";
import { SheetDrawing } from "./SheetDrawing";

/** All keys on one page, to be printed or kept as a picture. */
export function Sheet() {
  const set = useKeySets(keySet);
  useTitle("Sheet of keys", set.name);
  useLayout();
  useLabels();
  useEffect(() => void loadLabels(), []);
  const drawing = useRef<SVGSVGElement>(null);
  return (
    <main className="sheet h-full overflow-y-auto p-4">
      <div className="not-printed mx-auto flex max-w-[1180px] items-center gap-2 pb-3">
        <h1 className="pr-2 text-lg font-semibold">Sheet of keys: {set.name}</h1>
        <span className="flex-1" />
        <Button onClick={() => history.back()}>Back</Button>
        <Button onClick={() => drawing.current && void savePicture(drawing.current, "keys.png")}>
          As a picture
        </Button>
        <Button look="main" onClick={() => window.print()}>
          Print
        </Button>
      </div>
      <div className="mx-auto max-w-[1180px]">
        <SheetDrawing ref={drawing} set={set} commands={allBound(set.keys)} />
      </div>
    </main>
  );
}
