import type { ReactNode } from "react";

/** A part of the settings under its own heading. */
export function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="space-y-4">
      <h2 className="border-b border-edge pb-1 text-base font-semibold">{title}</h2>
      {children}
    </section>
  );
}
