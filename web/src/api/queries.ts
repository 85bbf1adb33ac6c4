/** What is read from the server and kept for a while. */

import { QueryClient } from "@tanstack/react-query";
import { onReconnect } from "./events";

/** The server is on this machine: whether there is a network beside it does not matter. */
const networkMode = "always";

export const queries = new QueryClient({
  defaultOptions: {
    queries: { staleTime: 5_000, retry: 1, refetchOnWindowFocus: false, networkMode },
    mutations: { networkMode },
  },
});

onReconnect(() => void queries.invalidateQueries());
