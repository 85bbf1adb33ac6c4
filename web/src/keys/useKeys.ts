import { useEffect } from "react";
import type { Screen } from "./command";
import { COMMANDS } from "./commands";

/** A key press as commands name it. */
export function pressed(event: KeyboardEvent): string {
  const key = event.key.toLowerCase();
  // With Alt held some layouts give another character: the digit or letter on the key is meant.
  const plain = event.altKey && /^(Key|Digit)./.test(event.code) ? event.code.slice(-1).toLowerCase() : key;
  const shift = event.shiftKey && plain !== "?" ? "shift+" : "";
  return `${event.ctrlKey || event.metaKey ? "ctrl+" : ""}${event.altKey ? "alt+" : ""}${shift}${plain}`;
}

/** A button that was clicked (not reached by keys) lets go of the focus: the next key is a command. */
function giveBackKeys(event: MouseEvent) {
  const button = (event.target as HTMLElement).closest("button");
  if (event.detail > 0 && button && !button.closest("[role=dialog]") && !button.hasAttribute("aria-haspopup"))
    button.blur();
}

/** Runs commands on keys while no text is typed and no dialog is open. */
export function useKeys(screen: Screen, go: (screen: Screen) => void) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (target.closest("input:not([type=range]), textarea, [role=dialog], [role=slider]")) return;
      const key = pressed(event);
      // Enter and Space belong to a control that has the focus.
      if ((key === "enter" || key === " ") && target.closest("button, a, summary")) return;
      const command = COMMANDS.find((c) => c.screens.includes(screen) && c.keys.includes(key));
      if (!command) return;
      event.preventDefault();
      command.run(event.timeStamp, go);
    };
    const onKeyUp = (event: KeyboardEvent) => {
      const key = event.key.toLowerCase();
      for (const command of COMMANDS) if (command.end && command.keys.includes(key)) command.end();
    };
    window.addEventListener("keydown", onKey);
    // A key that is let go of in another window is never heard of here.
    const letGo = () => {
      for (const command of COMMANDS) command.end?.();
    };
    window.addEventListener("keyup", onKeyUp);
    window.addEventListener("blur", letGo);
    window.addEventListener("click", giveBackKeys);
    return () => {
      window.removeEventListener("keydown", onKey);
      window.removeEventListener("keyup", onKeyUp);
      window.removeEventListener("blur", letGo);
      window.removeEventListener("click", giveBackKeys);
    };
  }, [screen, go]);
}

/** Listens to a command that only this screen can carry out. */
export function useShout(what: string, hear: () => void) {
  useEffect(() => {
    window.addEventListener(`winnow:${what}`, hear);
    return () => window.removeEventListener(`winnow:${what}`, hear);
  }, [what, hear]);
}

/** Listens to somebody who wants a point of the active picture shown. */
export function usePointsShown(hear: (point: { x: number; y: number }) => void) {
  useEffect(() => {
    const onShow = (event: Event) => hear((event as CustomEvent<{ x: number; y: number }>).detail);
    window.addEventListener("winnow:show-point", onShow);
    return () => window.removeEventListener("winnow:show-point", onShow);
  }, [hear]);
}
