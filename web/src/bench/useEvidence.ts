import { type UseQueryResult, useQueries, useQuery } from "@tanstack/react-query";
import { api, type Evidence, type Frame, unwrap } from "../api/client";

/** While a frame waits to be measured it is asked for again and again: the panel fills in live. */
const ASK_AGAIN_MS = 1500;

function question(frame: Frame) {
  return {
    // What the group says of a frame shows in these; when they change, so may the reasons.
    queryKey: ["evidence", frame.id, frame.version, frame.group, frame.lead, frame.warnings, frame.faces],
    queryFn: async (): Promise<Evidence> => {
      const answer = await api.GET("/api/frames/{frame_id}/evidence", {
        params: { path: { frame_id: frame.id } },
      });
      // The client types pairs and boxes as lists of any length.
      return unwrap(answer) as Evidence;
    },
    refetchInterval: (query: { state: { data?: Evidence } }) =>
      query.state.data?.state === "waiting" ? ASK_AGAIN_MS : (false as const),
  };
}

/** What was measured on a frame. */
export function useEvidence(frame: Frame | undefined): UseQueryResult<Evidence> {
  return useQuery(frame ? question(frame) : { queryKey: ["evidence"], queryFn: never, enabled: false });
}

function never(): Promise<Evidence> {
  return Promise.reject(new Error("There is no frame to ask for."));
}

/** What was measured on several frames, in their order; undefined while it is on its way. */
export function useEvidenceOf(frames: Frame[]): (Evidence | undefined)[] {
  return useQueries({ queries: frames.map(question) }).map((answer) => answer.data);
}
