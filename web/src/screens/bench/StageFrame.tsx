import { memo, useMemo } from "react";
import type { Frame } from "../../api/client";
import { offer } from "../../panels/marking/useOffer";
import type { Found } from "../../pictures/aim";
import type { Quality } from "../../pictures/cache";
import { useFollowing } from "../../shoot/following";
import { mark } from "../../shoot/marking";
import { activate } from "../../shoot/moving";
import { looksAtRejects, useWalk } from "../../shoot/walk/store";
import { Cell } from "./Cell";
import { stageNeighbour } from "./compared";
import { FrameMenu } from "./FrameMenu";
import { Strip } from "./Strip";
import { STRIP } from "./tiling";
import type { Way } from "./useGestures";

interface Props {
  frame: Frame;
  left: number;
  top: number;
  width: number;
  height: number;
  pixelWidth: number;
  pixelHeight: number;
  /** Goes to its new place with a short movement. A zoom does not wait for one. */
  moves: boolean;
  active: boolean;
  ringed: boolean;
  hidden: boolean;
  bare: boolean;
  found: Found | undefined;
  chosenIn: Frame | undefined;
  onDrawn: (id: number, quality: Quality | null) => void;
}

/** One frame with what stands under it; made anew only when something of its own changes. */
export const StageFrame = memo(function StageFrame(props: Props) {
  const { frame, left, top, width, height, pixelWidth, pixelHeight, active, bare } = props;
  const told = useFollowing(frame);
  const isPlain = useWalk((s) => looksAtRejects(s.walk));
  const size = useMemo(() => ({ width: pixelWidth, height: pixelHeight }), [pixelWidth, pixelHeight]);
  return (
    <FrameMenu frame={frame}>
      <div
        onPointerEnter={({ pointerType }) => pointerType === "mouse" && offer(frame.id)}
        onPointerLeave={({ pointerType }) => pointerType === "mouse" && offer(null)}
        className={`absolute ${props.moves ? "transition-[left,top,width,height] duration-150" : ""}`}
        style={{
          left,
          top,
          width,
          height: height + (bare ? 0 : STRIP),
          visibility: props.hidden ? "hidden" : "visible",
        }}
      >
        <div
          className={`group relative ${props.ringed ? "outline-2 outline-offset-2 outline-straw" : ""} ${frame.decision === "reject" && !isPlain ? "rejected" : ""}`}
          style={{ height }}
        >
          <Cell
            frame={frame}
            size={size}
            active={active}
            found={props.found}
            chosenIn={props.chosenIn}
            onDrawn={props.onDrawn}
            onSwipe={(way, at) => swipe(frame.id, way, at)}
            onActivate={(at) => activate(frame.id, at)}
          />
        </div>
        {!bare && <Strip frame={told} width={width} active={active} />}
      </div>
    </FrameMenu>
  );
});

function swipe(id: number, way: Way, at: number) {
  if (way === "up") mark({ decision: "keep" }, at, [id]);
  else if (way === "down") mark({ decision: "reject" }, at, [id]);
  else activate(stageNeighbour(way === "left" ? 1 : -1), at);
}
