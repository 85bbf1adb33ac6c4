import { useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { type ReactNode, useState } from "react";
import { api, unwrap } from "../../api/client";
import { inWords } from "../../api/words";
import { Button } from "../../ui/controls";
import { count } from "../../ui/format";
import { asPath } from "./asPath";

/** What must be answered before a folder is taken: what follows from it, and the ways there are. */
export interface Question {
  text: string;
  answers: { words: string; main?: boolean; run: () => Promise<unknown> }[];
}

interface Props {
  title: string;
  /** What the button that ends it says. */
  verb: string;
  trigger: ReactNode;
  /** Takes the folder, or asks first what is to be done with it. */
  onChoose: (path: string) => Promise<Question | undefined>;
  /** The folder may be one that does not exist yet. */
  mayBeNew?: boolean;
}

/** A folder on the server's disk, browsed or typed. */
export function FolderChooser({ title, verb, trigger, onChoose, mayBeNew = false }: Props) {
  const [open, setOpen] = useState(false);
  const [path, setPath] = useState<string | null>(null);
  const [typed, setTyped] = useState("");
  const [error, setError] = useState<string | null>(null);
  const [question, setQuestion] = useState<Question | null>(null);
  const listing = useQuery({
    queryKey: ["folders", path],
    enabled: open,
    queryFn: () => api.GET("/api/folders", { params: { query: { path: path ?? undefined } } }).then(unwrap),
    retry: false,
  });
  const enter = (to: string | null) => {
    setPath(to);
    setTyped(to ?? "");
    setError(null);
    setQuestion(null);
  };
  const attempt = async (act: () => Promise<unknown>) => {
    setError(null);
    try {
      const asked = (await act()) as Question | undefined;
      setQuestion(asked ?? null);
      if (!asked) setOpen(false);
    } catch (problem) {
      setError(inWords(problem));
    }
  };
  const data = listing.data;
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>{trigger}</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/60" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-50 flex h-[min(560px,90vh)] w-[min(640px,94vw)] -translate-x-1/2 -translate-y-1/2 flex-col rounded-lg border border-edge bg-wall p-5"
        >
          <Dialog.Title className="text-base font-semibold">{title}</Dialog.Title>
          <form
            className="mt-3 flex gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              // Of what was chosen below no blank is taken away: names may begin and end with some.
              void attempt(() => onChoose(typed === path ? path : asPath(typed)));
            }}
          >
            <label className="flex-1">
              <span className="sr-only">Folder</span>
              <input
                value={typed}
                onChange={(event) => {
                  setTyped(event.target.value);
                  setQuestion(null);
                }}
                placeholder={
                  mayBeNew ? "Choose below, or type a path; it may be new" : "Choose below, or type a path"
                }
                className="h-8 w-full rounded-md border border-line bg-surround px-2 placeholder:text-ink3"
              />
            </label>
            <Button look="main" type="submit" disabled={!typed.trim()}>
              {verb}
            </Button>
          </form>
          {(error ?? listing.error) && (
            <p role="alert" className="mt-2 border-l-2 border-straw pl-2">
              {error ?? inWords(listing.error)}
            </p>
          )}
          {question && (
            <div role="alert" data-testid="question" className="mt-2 border-l-2 border-straw pl-2">
              <p>{question.text}</p>
              <div className="mt-2 flex flex-wrap gap-2">
                {question.answers.map(({ words, main, run }) => (
                  <Button key={words} look={main ? "main" : "plain"} onClick={() => void attempt(run)}>
                    {words}
                  </Button>
                ))}
              </div>
            </div>
          )}
          <div className="mt-3 flex items-center gap-3 text-ink2">
            <Button disabled={path === null} onClick={() => enter(data?.parent ?? null)}>
              Up
            </Button>
            <span className="truncate">{data?.path ?? "Places Winnow may open"}</span>
          </div>
          <ul className="mt-2 min-h-0 flex-1 overflow-y-auto rounded-md border border-edge bg-surround py-1">
            {data?.folders.map((folder) => (
              <li key={folder.path}>
                <button
                  type="button"
                  onClick={() => enter(folder.path)}
                  className="w-full px-3 py-1 text-left hover:bg-raised"
                >
                  {folder.name}
                </button>
              </li>
            ))}
            {data && data.folders.length === 0 && (
              <li className="px-3 py-1 text-ink3">No folders in here.</li>
            )}
          </ul>
          <p className="mt-2 h-5 text-ink2">
            {data?.path && `${count(data.pictures, "picture")} right in this folder. `}
            {data?.note}
          </p>
          <Dialog.Close className="absolute top-4 right-5 underline">Cancel</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
