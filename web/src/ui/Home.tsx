import { Link } from "wouter";
import { Grain } from "./marks";

/** The way back to the list of shoots. */
export function Home() {
  return (
    <Link
      href="/"
      className="flex items-center gap-1.5 text-[15px] font-semibold no-underline"
      aria-label="winnow: all shoots"
    >
      <Grain size={17} />
      winnow
    </Link>
  );
}
