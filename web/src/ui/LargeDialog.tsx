import { Dialog } from "radix-ui";
import { type ReactNode, useRef } from "react";

interface Props {
  title: string;
  /** Its class for the width, as `w-[min(820px,96vw)]`. */
  width: string;
  open: boolean;
  onOpenChange: (open: boolean) => void;
  /** Made when it opens, and gone with it. */
  children: ReactNode;
}

/** A dialog in the middle of the page, as high as it needs. */
export function LargeDialog({ title, width, open, onOpenChange, children }: Props) {
  const content = useRef<HTMLDivElement>(null);
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/60" />
        <Dialog.Content
          aria-describedby={undefined}
          ref={content}
          tabIndex={-1}
          // Where nothing but the way out is there yet, the next Enter must not take it.
          onOpenAutoFocus={(event) => {
            if (content.current?.querySelector("input, textarea, select, button:not([data-close])")) return;
            event.preventDefault();
            content.current?.focus();
          }}
          className={`fixed top-1/2 left-1/2 z-50 max-h-[94vh] -translate-x-1/2 -translate-y-1/2 overflow-y-auto rounded-lg border border-edge bg-wall p-5 outline-none ${width}`}
        >
          <Dialog.Title className="text-base font-semibold">{title}</Dialog.Title>
          {open && children}
          <Dialog.Close data-close className="absolute top-4 right-5 underline">
            Close
          </Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
