import { useEffect } from "react";
import { COMMANDS, type Screen } from "./commands";

/** A key press as commands name it. */
export function pressed(event: KeyboardEvent): string {
  const key = event.key.toLowerCase();
  // With Alt held some layouts give another character: the digit or letter on the key is meant.
  const plain = event.altKey && /^(Key|Digit)./.test(event.code) ? event.code.slice(-1).toLowerCase() : key;
  const shift = event.shiftKey && plain !== "?" ? "shift+" : "";
  return `${event.ctrlKey || event.metaKey ? "ctrl+" : ""}${event.altKey ? "alt+" : ""}${shift}${plain}`;
}

/** Runs commands on keys while no text is typed and no dialog is open. */
export function useKeys(screen: Screen, go: (screen: Screen) => void) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (target.closest("input:not([type=range]), textarea, [role=dialog], [role=slider]")) return;
      const key = pressed(event);
      // Enter and Space belong to a control that was reached by keys; after a click they are commands.
      if (
        (key === "enter" || key === " ") &&
        target.matches(":focus-visible") &&
        target.closest("button, a, summary")
      )
        return;
      const command = COMMANDS.find((c) => c.screens.includes(screen) && c.keys.includes(key));
      if (!command) return;
      event.preventDefault();
      command.run(event.timeStamp, go);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [screen, go]);
}

/** Listens to a command that only this screen can carry out. */
export function useShout(what: string, hear: () => void) {
  useEffect(() => {
    window.addEventListener(`winnow:${what}`, hear);
    return () => window.removeEventListener(`winnow:${what}`, hear);
  }, [what, hear]);
}
