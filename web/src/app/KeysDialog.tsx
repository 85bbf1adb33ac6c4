import { Dialog } from "radix-ui";
import { useRef } from "react";
import { Link } from "wouter";
import { commandsOf } from "../keys/inForce";
import { keyName } from "../keys/press";
import { Kbd } from "../ui/controls";
import { showKeys, useOverlay } from "./overlay";
import type { Screen } from "./screens";

/** The keys in force on this screen; who has no keyboard presses them here. */
export function KeysDialog({ screen }: { screen: Screen }) {
  const open = useOverlay((s) => s.keys);
  const content = useRef<HTMLDivElement>(null);
  const inForce = commandsOf(screen);
  const sections = [...new Set(inForce.map((command) => command.section))];
  return (
    <Dialog.Root open={open} onOpenChange={showKeys}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/60" />
        <Dialog.Content
          aria-describedby={undefined}
          ref={content}
          tabIndex={-1}
          // Not the first command: Enter would do it.
          onOpenAutoFocus={(event) => {
            event.preventDefault();
            content.current?.focus();
          }}
          className="fixed top-1/2 left-1/2 z-50 max-h-[94vh] w-[min(1200px,96vw)] -translate-x-1/2 -translate-y-1/2 overflow-y-auto rounded-lg border border-edge bg-wall p-5 outline-none"
        >
          <Dialog.Title className="text-base font-semibold">Keys on the {screen}</Dialog.Title>
          <div className="mt-3 gap-8 columns-4 max-[1180px]:columns-3 max-[900px]:columns-2">
            {sections.map((section) => (
              <section key={section} className="mb-4 break-inside-avoid">
                <h3 className="mb-1 font-semibold text-ink2">{section}</h3>
                <dl>
                  {inForce
                    .filter((command) => command.section === section)
                    .map((command) => (
                      <div key={command.id} className="flex items-center gap-2">
                        <dt className="flex-1">
                          <button
                            type="button"
                            // What lasts as long as a key is held has no meaning without one.
                            disabled={Boolean(command.onEnd)}
                            onClick={(event) => {
                              showKeys(false);
                              command.run(event.timeStamp);
                            }}
                            className="min-h-6 w-full text-left leading-tight underline-offset-2 enabled:hover:underline"
                          >
                            {command.title}
                          </button>
                        </dt>
                        <dd className="flex gap-1">
                          {command.keys.slice(0, 2).map((key) => (
                            <Kbd key={key}>{keyName(key)}</Kbd>
                          ))}
                        </dd>
                      </div>
                    ))}
                </dl>
              </section>
            ))}
          </div>
          <nav className="absolute top-4 right-20 flex gap-5" aria-label="What can be set">
            {[
              ["/settings", "Settings …"],
              ["/keys", "Change keys …"],
            ].map(([to, words]) => (
              <Link
                key={to}
                href={to ?? ""}
                onClick={() => showKeys(false)}
                className="underline underline-offset-2"
              >
                {words}
              </Link>
            ))}
          </nav>
          <Dialog.Close className="absolute top-4 right-5 underline">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
