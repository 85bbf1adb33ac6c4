/** What went wrong and is told on top of the screen. That nobody answers is told by the connection. */

import { create } from "zustand";
import { isNobodyThere } from "../api/client";
import { inWords } from "../api/words";

export const useErrors = create<{ error: string | null }>(() => ({ error: null }));

export function tell(error: unknown) {
  if (isNobodyThere(error)) return;
  useErrors.setState({ error: inWords(error) });
}

export function dismissError() {
  useErrors.setState({ error: null });
}

/** Runs a request; an error becomes the message on screen, and the answer undefined. */
export async function attempt<T>(request: () => Promise<T>): Promise<T | undefined> {
  try {
    return await request();
  } catch (error) {
    tell(error);
    return undefined;
  }
}
