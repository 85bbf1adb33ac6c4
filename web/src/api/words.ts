/** What went wrong, as it is told to a person. */

import { isNobodyThere } from "./client";

export function inWords(problem: unknown): string {
  if (isNobodyThere(problem)) return "Winnow does not answer: is it still running?";
  if (problem instanceof DOMException && problem.name === "TimeoutError")
    return "Winnow takes very long to answer.";
  return problem instanceof Error ? problem.message : String(problem);
}
