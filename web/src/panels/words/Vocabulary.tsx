import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import { tell } from "../../shoot/errors";
import { Button } from "../../ui/controls";
import { FileButton } from "../../ui/FileButton";
import { count } from "../../ui/format";
import { saveFile } from "../../ui/saveFile";

/** The list of keywords that completion draws on, beside those of the shoot: a text file, read in and saved. */
export function Vocabulary() {
  const client = useQueryClient();
  const { data } = useQuery({
    queryKey: ["vocabulary"],
    queryFn: () => api.GET("/api/vocabulary").then(unwrap),
  });
  const put = useMutation({
    mutationFn: (text: string) => api.PUT("/api/vocabulary", { body: { text } }).then(unwrap),
    onSuccess: (found) => {
      client.setQueryData(["vocabulary"], found);
      void client.invalidateQueries({ queryKey: ["keywords"] });
    },
    onError: tell,
  });
  return (
    <section className="mt-5 border-t border-edge pt-3">
      <h3 className="font-semibold">Vocabulary</h3>
      <p className="pt-1 pb-2 text-ink2">
        {data?.words ? `${count(data.words, "keyword")}. ` : "No list of your own yet. "}A text file with one
        keyword a line; a tab before it puts it below the one above.
      </p>
      <div className="flex gap-2">
        <FileButton
          label="Read a vocabulary from a file"
          accept=".txt,text/plain"
          onText={(text) => put.mutate(text)}
        >
          {data?.words ? "Another file …" : "Read a file …"}
        </FileButton>
        {data && data.words > 0 && (
          <>
            <Button onClick={() => saveFile("vocabulary.txt", data.text, "text/plain")}>
              Save as a file
            </Button>
            <Button onClick={() => put.mutate("")}>Forget it</Button>
          </>
        )}
      </div>
    </section>
  );
}
