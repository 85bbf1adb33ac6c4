/** Commands in a pass: which of them are in force, and where the end of it is reached. */

import type { Command } from "../../keys/command";
import { isLast, reachEnd } from "./ending";
import { goesOnIn, isInForce } from "./permits";
import { goesByFrames, passNow, useWalk } from "./store";
import { endTogether, rejectTogether } from "./together";

/** A command as it is now; null: it rests. */
export function asInForce(command: Command): Command | null {
  const { walk, bulk } = useWalk.getState();
  if (!walk) return command;
  if (!isInForce(command.id)) return null;
  if (bulk && command.id === "reject")
    return { ...command, title: "Reject all of these", run: rejectTogether };
  if (bulk && command.id === "back") return { ...command, title: "Back to frame by frame", run: endTogether };
  const isForward = goesForward(command.id);
  if (!isForward) return command;
  return {
    ...command,
    run: (at) => {
      const ends = isLast(isForward === "group");
      command.run(at);
      if (ends) reachEnd();
    },
  };
}

/** Whether a command goes on to the next frame, or group, where there is one. */
function goesForward(id: string): "frame" | "group" | null {
  const pass = passNow();
  if (!pass) return null;
  if (id === "next-group") return "group";
  if (id === "next" || id === "leave") return "frame";
  if (!goesByFrames(pass)) return null;
  if (id === "keep" || id === "reject") return goesOnIn(id) ? "frame" : null;
  if (/^rate-[1-5]$/.test(id)) return goesOnIn("rating") ? "frame" : null;
  return /^label-/.test(id) && goesOnIn("label") ? "frame" : null;
}
