import { useEffect, useState } from "react";

const now = () => window.devicePixelRatio || 1;

/** Pixels of the display to a CSS px: others where the window is moved to another display, though its size may stay. */
export function useRatio(): number {
  const [ratio, setRatio] = useState(now);
  useEffect(() => {
    const look = () => setRatio(now());
    // Browsers differ in which of the two they tell.
    const same = matchMedia(`(resolution: ${ratio}dppx)`);
    same.addEventListener("change", look);
    window.addEventListener("resize", look);
    return () => {
      same.removeEventListener("change", look);
      window.removeEventListener("resize", look);
    };
  }, [ratio]);
  return ratio;
}
