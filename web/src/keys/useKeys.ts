import { useEffect } from "react";
import { FIELDS, goHome, isHome, isLayerOpen } from "./home";
import { commandsOf } from "./inForce";
import { plainKey, pressed, pressedButton, turnedWheel } from "./press";

/** Enter and Space belong to a control that has the focus, and the arrows to one of several that it moves among. */
const CONTROLS = "button, a, summary, [role=radio]";
const AMONG = "[role=radio], [role=tab], [data-radix-collection-item]";
const WALKING = new Set(["arrowleft", "arrowright", "arrowup", "arrowdown", "home", "end"]);

/** So far the wheel is turned for once, px. */
const NOTCH_PX = 60;

/** Whether a key belongs to what has the keyboard now, and not to a command. */
function belongsElsewhere(event: KeyboardEvent, press: string): boolean {
  if (event.isComposing || isLayerOpen()) return true;
  const target = event.target instanceof Element ? event.target : null;
  if (target?.closest(FIELDS)) return true;
  if (isHome(target)) return false;
  if (press === "enter" || press === " ") return Boolean(target?.closest(CONTROLS));
  return WALKING.has(press) && Boolean(target?.closest(AMONG));
}

/** A button that was clicked (not reached by keys) lets go of the focus: the next key is a command. */
function giveBackKeys(event: MouseEvent) {
  const button = (event.target as HTMLElement).closest("button");
  if (event.detail > 0 && button && !button.closest("[role=dialog]") && !button.hasAttribute("aria-haspopup"))
    button.blur();
  if (document.activeElement === document.body) goHome();
}

/** Runs the commands of a screen on their keys. */
export function useKeys(screen: string) {
  useEffect(() => {
    const onKeyDown = (event: KeyboardEvent) => {
      const press = pressed(event);
      // Who goes about with Tab is shown where they are, also where it is plain otherwise.
      document.documentElement.toggleAttribute("data-tabbing", /^(shift\+)?tab$/.test(press));
      if (belongsElsewhere(event, press)) return;
      const command = commandsOf(screen).find((one) => one.keys.includes(press));
      if (!command) return;
      event.preventDefault();
      if (!event.repeat || command.repeats) command.run(event.timeStamp);
    };
    const onButton = (event: MouseEvent) => {
      // The first three are those of the browser; the click that follows the others is theirs too.
      if (event.button < 3 || isLayerOpen()) return;
      const press = pressedButton(event);
      const command = commandsOf(screen).find((one) => one.keys.includes(press));
      if (!command) return;
      event.preventDefault();
      if (event.type === "mousedown") command.run(event.timeStamp);
      if (event.type === "mouseup") command.onEnd?.();
    };
    let turned = 0;
    const onWheel = (event: WheelEvent) => {
      const press = turnedWheel(event);
      if (!press.includes("+") || isLayerOpen()) return;
      const command = commandsOf(screen).find((one) => one.keys.includes(press));
      if (!command) return;
      event.preventDefault();
      event.stopPropagation();
      if (Math.sign(turned) !== Math.sign(event.deltaY)) turned = 0;
      turned += event.deltaY;
      // A touchpad tells of a turn in many small parts.
      if (Math.abs(turned) < NOTCH_PX) return;
      turned = 0;
      command.run(event.timeStamp);
    };
    const onKeyUp = (event: KeyboardEvent) => {
      const key = plainKey(event);
      for (const command of commandsOf(screen)) if (command.keys.includes(key)) command.onEnd?.();
    };
    // A key that is let go of in another window is never heard of here.
    const onBlur = () => {
      for (const command of commandsOf(screen)) command.onEnd?.();
    };
    // Before anybody else hears of it: a menu that the key closes is still open then, and has the key.
    window.addEventListener("keydown", onKeyDown, { capture: true });
    window.addEventListener("keyup", onKeyUp);
    window.addEventListener("mousedown", onButton, { capture: true });
    window.addEventListener("mouseup", onButton, { capture: true });
    window.addEventListener("auxclick", onButton, { capture: true });
    window.addEventListener("wheel", onWheel, { capture: true, passive: false });
    window.addEventListener("blur", onBlur);
    window.addEventListener("click", giveBackKeys);
    return () => {
      onBlur();
      window.removeEventListener("keydown", onKeyDown, { capture: true });
      window.removeEventListener("keyup", onKeyUp);
      window.removeEventListener("mousedown", onButton, { capture: true });
      window.removeEventListener("mouseup", onButton, { capture: true });
      window.removeEventListener("auxclick", onButton, { capture: true });
      window.removeEventListener("wheel", onWheel, { capture: true });
      window.removeEventListener("blur", onBlur);
      window.removeEventListener("click", giveBackKeys);
    };
  }, [screen]);
}
