import { useEffect } from "react";

/** The title of the window: what it shows, from the particular to the general. */
export function useTitle(...parts: (string | undefined)[]) {
  const title = [...parts.filter(Boolean), "Winnow"].join(" · ");
  useEffect(() => {
    document.title = title;
  }, [title]);
}
