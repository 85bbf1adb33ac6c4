import { type ImgHTMLAttributes, useEffect, useRef, useState } from "react";
import { onReconnect } from "../api/events";

/** A small picture. One that failed while the server was away is asked for again when it is back. */
export function Thumbnail(props: ImgHTMLAttributes<HTMLImageElement>) {
  const [tries, setTries] = useState(0);
  const failed = useRef(false);
  useEffect(
    () =>
      onReconnect(() => {
        if (failed.current) setTries((n) => n + 1);
        failed.current = false;
      }),
    [],
  );
  return (
    <img
      key={tries}
      alt=""
      fetchPriority="low" // the pictures of the stage come first
      {...props}
      onError={() => {
        failed.current = true;
      }}
    />
  );
}
