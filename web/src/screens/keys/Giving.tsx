import { useEffect, useRef } from "react";
import { isHeldAlone } from "../../keys/bindings";
import { keyName, pressed, pressedButton, turnedWheel } from "../../keys/press";
import { Button, Kbd } from "../../ui/controls";

interface GivingProps {
  title: string;
  given: string | null;
  /** Why it cannot be had. */
  why: string | null;
  other: string | undefined;
  instead: string | null;
  onGiven: (press: string) => void;
  onSwap: () => void;
  onTake: () => void;
  onCancel: () => void;
}

/** Waits for a key for a command; a clash is shown and resolved here. */
export function Giving({
  title,
  given,
  why,
  other,
  instead,
  onGiven,
  onSwap,
  onTake,
  onCancel,
}: GivingProps) {
  const isClash = given && !why;
  const give = useRef(onGiven);
  give.current = onGiven;
  useEffect(() => {
    // What the browser does with them would lead away from here.
    const onButton = (event: MouseEvent) => {
      if (event.button < 3) return;
      event.preventDefault();
      if (event.type === "mouseup") give.current(pressedButton(event));
    };
    const onWheel = (event: WheelEvent) => {
      const turned = turnedWheel(event);
      if (!turned.includes("+")) return;
      event.preventDefault();
      give.current(turned);
    };
    window.addEventListener("mousedown", onButton, { capture: true });
    window.addEventListener("mouseup", onButton, { capture: true });
    window.addEventListener("wheel", onWheel, { capture: true, passive: false });
    return () => {
      window.removeEventListener("mousedown", onButton, { capture: true });
      window.removeEventListener("mouseup", onButton, { capture: true });
      window.removeEventListener("wheel", onWheel, { capture: true });
    };
  }, []);
  return (
    <section
      aria-label="A key for it"
      className="flex min-h-12 flex-wrap items-center gap-2 rounded border border-straw px-3 py-2"
    >
      {isClash ? (
        <>
          <span role="alert" className="flex-1">
            <Kbd>{keyName(given)}</Kbd> is taken: it does <b className="font-semibold">{other}</b>. You give
            it to <b className="font-semibold">{title}</b>.
          </span>
          {instead && (
            <Button look="main" onClick={onSwap}>
              Swap: that gets {keyName(instead)}
            </Button>
          )}
          <Button onClick={onTake}>Take it over</Button>
        </>
      ) : (
        <button
          type="button"
          // biome-ignore lint/a11y/noAutofocus: it was asked for just now, and waits for a key
          autoFocus
          onKeyDown={(event) => {
            event.preventDefault();
            const next = pressed(event.nativeEvent);
            if (!isHeldAlone(next)) onGiven(next);
          }}
          className="min-h-8 flex-1 text-left"
        >
          {given && why ? (
            <span role="alert">
              <Kbd>{keyName(given)}</Kbd> cannot be had: {why}. Press another key for{" "}
            </span>
          ) : (
            <>Press a key for </>
          )}
          <b className="font-semibold">{title}</b> …
          <span className="pl-3 text-xs text-ink2">
            or a button of the mouse under the thumb, or the wheel with a key held
          </span>
        </button>
      )}
      <Button onClick={onCancel}>Keep as it was</Button>
    </section>
  );
}
