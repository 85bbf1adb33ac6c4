import type { ReactNode } from "react";

/** One of the things that can leave. */
export function Card({ title, counted, children }: { title: string; counted: string; children: ReactNode }) {
  return (
    <section className="rounded-lg border border-edge bg-wall p-4">
      <h2 className="mb-2 flex justify-between text-[15px] font-semibold">
        {title} <span className="text-[13px] font-normal text-ink2">{counted}</span>
      </h2>
      {children}
    </section>
  );
}
