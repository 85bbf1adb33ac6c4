import { useEffect, useLayoutEffect } from "react";
import { NothingInView } from "../../panels/filter/NothingInView";
import { enterWall } from "../../shoot/ordering";
import { stopPainting } from "../../shoot/painting";
import { putSelectionAway } from "../../shoot/selecting";
import { useShoot } from "../../shoot/store";
import { useSettings } from "../../ui/settings";
import { shown } from "../../ui/timing";
import { PaintAtPointer } from "./PaintLayer";
import { WallLine } from "./WallLine";
import { WallRows } from "./WallRows";
import { WallTable } from "./WallTable";

/** Every frame in view, in the order that is asked for, as pictures or as a table. */
export function Wall() {
  const isEmpty = useShoot((s) => s.visible.length === 0);
  const active = useShoot((s) => s.active);
  const density = useSettings((s) => s.wallDensity);
  useEffect(() => {
    if (active !== null) shown("winnow:show-frame", active);
  }, [active]);
  useLayoutEffect(enterWall, []);
  useEffect(() => stopPainting, []);
  // However the wall is left: what is selected here is nothing that a key may act on elsewhere.
  useLayoutEffect(() => putSelectionAway, []);
  return (
    <main className="relative flex min-w-0 flex-1 flex-col">
      <PaintAtPointer />
      <WallLine />
      {isEmpty && <NothingInView />}
      {density === "table" ? (
        <WallTable hidden={isEmpty} />
      ) : (
        <WallRows hidden={isEmpty} dense={density === "dense"} />
      )}
    </main>
  );
}
