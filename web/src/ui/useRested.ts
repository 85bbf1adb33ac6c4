import { useEffect, useState } from "react";

/** A value that has stayed the same for a while; undefined until then. Somebody who steps through frames must not
 * wait for what only somebody who looks at one wants to know. */
export function useRested<T>(value: T, ms: number): T | undefined {
  const [rested, setRested] = useState<T>();
  useEffect(() => {
    const timer = setTimeout(() => setRested(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return rested === value ? value : undefined;
}
