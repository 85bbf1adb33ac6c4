import { Tooltip } from "radix-ui";
import type { ButtonHTMLAttributes, ComponentProps, ReactElement, ReactNode } from "react";
import { keyOf } from "../keys/inForce";

export function Kbd({ children }: { children: ReactNode }) {
  return (
    <kbd className="rounded border border-b-2 border-line bg-raised px-1.5 font-sans text-[11px] font-semibold whitespace-nowrap text-ink">
      {children}
    </kbd>
  );
}

/** A tooltip with the key of a command. */
export function Hint({
  text,
  command,
  children,
}: {
  text: string;
  command?: string;
  children: ReactElement;
}) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={6}
          className="z-50 flex max-w-72 items-center gap-2 rounded border border-edge bg-pit px-2 py-1 text-xs text-ink shadow-lg"
        >
          {text}
          {command && <Kbd>{keyOf(command)}</Kbd>}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}

const LOOKS = {
  plain: "border-line bg-raised hover:border-ink3",
  main: "border-straw bg-straw font-semibold text-on-straw hover:brightness-110",
};

export function Button({
  look = "plain",
  className = "",
  ...rest
}: ComponentProps<"button"> & { look?: keyof typeof LOOKS }) {
  return (
    <button
      type="button"
      className={`min-h-7 rounded-md border px-3 py-1 disabled:cursor-not-allowed disabled:opacity-50 ${LOOKS[look]} ${className}`}
      {...rest}
    />
  );
}

/** What a toggle looks like: it reads as pressed by form, filled and not only coloured. */
export function chipLook(on: boolean): string {
  return `flex min-h-6 items-center gap-1.5 rounded-full border px-2.5 text-xs whitespace-nowrap ${
    on ? "border-ink2 bg-held text-ink" : "border-line text-ink2 hover:border-ink3"
  }`;
}

export function Chip({
  on,
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { on: boolean }) {
  return <button type="button" aria-pressed={on} className={`${chipLook(on)} ${className}`} {...rest} />;
}
