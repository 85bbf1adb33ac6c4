/** What the cells of the wall are told, and when that is the same. */

import type { MouseEvent } from "react";
import type { Cell } from "./layout";

export interface CellProps {
  cell: Cell;
  left: number;
  top: number;
  height: number;
  active: boolean;
  selected: boolean;
  onClick: (event: MouseEvent, id: number, touch: boolean) => void;
  onOpen: () => void;
}

/** A cell draws anew only for what can be seen of it. */
export function sameCell(before: CellProps, after: CellProps): boolean {
  return (
    before.cell.frame === after.cell.frame &&
    before.cell.width === after.cell.width &&
    before.left === after.left &&
    before.top === after.top &&
    before.height === after.height &&
    before.active === after.active &&
    before.selected === after.selected
  );
}
