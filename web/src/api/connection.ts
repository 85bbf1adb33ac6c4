/** Whether the server answers, as far as this page knows. */

import { create } from "zustand";

export const useConnection = create<{ lost: boolean }>(() => ({ lost: false }));

/** A request found nobody, or the stream of news broke off. */
export function noteLost() {
  useConnection.setState({ lost: true });
}

/** The stream of news stands: the server is there, and it is the one that this page came from. */
export function noteFound() {
  useConnection.setState({ lost: false });
}

/** Resolves once the server is there. */
export function whenFound(): Promise<void> {
  return new Promise((resolve) => {
    if (!useConnection.getState().lost) return resolve();
    const stop = useConnection.subscribe(({ lost }) => {
      if (lost) return;
      stop();
      resolve();
    });
  });
}
