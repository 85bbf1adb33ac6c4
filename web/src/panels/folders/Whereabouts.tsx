import { useQueryClient } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import { Button } from "../../ui/controls";
import { count } from "../../ui/format";
import { FolderChooser, type Question } from "./FolderChooser";

/** The folder of a shoot lies elsewhere now; its frames are recognised there. */
export async function setWhereabouts(shootId: number, path: string) {
  return unwrap(
    await api.POST("/api/shoots/{shoot_id}/whereabouts", {
      params: { path: { shoot_id: shootId } },
      body: { path },
    }),
  );
}

/** For a shoot whose folder cannot be reached: where it is now. What lies there is counted before anything changes. */
export function Whereabouts({ shootId, title }: { shootId: number; title: string }) {
  const client = useQueryClient();
  const look = async (path: string): Promise<Question> => {
    const match = unwrap(
      await api.POST("/api/shoots/{shoot_id}/whereabouts/count", {
        params: { path: { shoot_id: shootId } },
        body: { path },
      }),
    );
    const others = match.others ? ` ${count(match.others, "other frame")} there would be new in it.` : "";
    const missing = match.frames - match.found;
    const rest = missing ? ` ${count(missing, "frame")} would stay missing, with all marks.` : "";
    return {
      text: `${match.found} of its ${count(match.frames, "frame")} are in this folder.${rest}${others}`,
      answers: [
        {
          words: match.found ? "This is it" : "Take this folder all the same",
          main: match.found > 0,
          run: async () => {
            await setWhereabouts(shootId, path);
            await client.invalidateQueries();
          },
        },
      ],
    };
  };
  return (
    <FolderChooser
      title={`Where '${title}' is now`}
      verb="Look there"
      trigger={<Button>Where is it now? …</Button>}
      onChoose={look}
    />
  );
}
