import { useInfiniteQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef } from "react";
import { Link, useLocation, useSearch } from "wouter";
import { api, unwrap } from "../../api/client";
import { useNews } from "../../api/events";
import { inWords } from "../../api/words";
import { FolderChooser, type Question } from "../../panels/folders/FolderChooser";
import { setWhereabouts } from "../../panels/folders/Whereabouts";
import { addressOf } from "../../shoot/address";
import { Button } from "../../ui/controls";
import { Grain } from "../../ui/marks";
import { useTitle } from "../../ui/useTitle";
import { Cards, cardAddress } from "./Cards";
import { FoundFrames } from "./FoundFrames";
import { ShootCard } from "./ShootCard";

/** The shoots known here. */
export function Shoots() {
  const client = useQueryClient();
  const [, navigate] = useLocation();
  useTitle("Shoots");
  const { data, error, hasNextPage, fetchNextPage } = useInfiniteQuery({
    queryKey: ["shoots"],
    initialPageParam: 0,
    queryFn: ({ pageParam }) =>
      api.GET("/api/shoots", { params: { query: { after: pageParam } } }).then(unwrap),
    getNextPageParam: (page) => (page.more ? page.shoots.at(-1)?.id : undefined),
  });
  // A shoot that is opened between two pages would be on both.
  const cards = [
    ...new Map(data?.pages.flatMap((page) => page.shoots).map((card) => [card.id, card])).values(),
  ];
  useNews(
    useCallback(
      () => void client.invalidateQueries({ queryKey: ["shoots"] }, { cancelRefetch: false }),
      [client],
    ),
  );
  const typed = new URLSearchParams(useSearch()).get("find") ?? "";
  // In the address, so that Back leads from a frame to what was found.
  const find = (text: string) =>
    navigate(text ? `/?${new URLSearchParams({ find: text })}` : "/", { replace: true });
  const open = async (path: string, asNew = false): Promise<Question | undefined> => {
    const answer = await api.POST("/api/shoots", { body: { path, as_new: asNew } });
    const known = answer.error?.moved;
    if (known) {
      return {
        text: answer.error?.detail ?? "",
        answers: [
          {
            words: `It is '${known.title}'`,
            main: true,
            run: async () => {
              await setWhereabouts(known.shoot_id, path);
              navigate(addressOf(known.shoot_id, "wall"));
            },
          },
          { words: "Open it as a new shoot, without its marks", run: () => open(path, true) },
        ],
      };
    }
    navigate(addressOf(unwrap(answer).id, "wall"));
    return undefined;
  };
  const chooser = (
    <FolderChooser
      title="Open a folder as a shoot"
      verb="Open"
      trigger={<Button look="main">Open a folder …</Button>}
      onChoose={open}
    />
  );
  return (
    <div className="flex h-full flex-col">
      <header className="flex min-h-11 shrink-0 flex-wrap items-center gap-3 border-b border-edge bg-wall px-3.5 py-1">
        <span className="flex items-center gap-1.5 text-[15px] font-semibold">
          <Grain size={17} />
          winnow
        </span>
        <h1 className="text-ink2 max-[900px]:flex-1">Shoots</h1>
        <input
          type="search"
          aria-label="Find frames in all shoots"
          placeholder="Find in all shoots: a name, a word, a label, a date"
          value={typed}
          maxLength={200}
          onChange={(event) => find(event.target.value)}
          className="mx-auto h-7 min-w-40 max-w-md flex-1 rounded border border-line bg-pit px-2.5 placeholder:text-ink3 max-[900px]:order-last max-[900px]:max-w-none max-[900px]:basis-full"
        />
        <Link href="/settings" className="flex min-h-6 items-center underline underline-offset-2">
          Settings
        </Link>
        <FolderChooser
          title="Copy from a card or a folder"
          verb="Look"
          trigger={<Button>Copy from …</Button>}
          onChoose={async (path) => {
            navigate(cardAddress(path));
            return undefined;
          }}
        />
        {chooser}
      </header>
      <main className="min-h-0 flex-1 overflow-y-auto p-5">
        {error && <p role="alert">{inWords(error)}</p>}
        {typed.trim() ? <FoundFrames text={typed.trim()} /> : <Cards />}
        {!data && !error && <p className="text-ink2">Reading the list of shoots …</p>}
        {data && cards.length === 0 && (
          <div className="grid h-full place-items-center text-center text-ink2">
            <div>
              <Grain size={40} className="mx-auto mb-3" />
              <p className="pb-1 text-base text-ink">No shoot is open yet.</p>
              <p className="pb-4">
                Point at a folder of photographs; its sub-folders come along. Nothing in it is changed.
              </p>
              {chooser}
            </div>
          </div>
        )}
        {!typed.trim() && (
          <ul className="grid grid-cols-[repeat(auto-fill,minmax(272px,1fr))] gap-5">
            {cards.map((card) => (
              <li key={card.id}>
                <ShootCard card={card} />
              </li>
            ))}
          </ul>
        )}
        {!typed.trim() && hasNextPage && <Further key={cards.length} onReached={fetchNextPage} />}
      </main>
    </div>
  );
}

const AHEAD = "800px";

/** The end of what was fetched of the list: what follows is fetched before one gets there. */
function Further({ onReached }: { onReached: () => unknown }) {
  const end = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const watch = new IntersectionObserver(([seen]) => seen?.isIntersecting && onReached(), {
      root: end.current?.parentElement,
      rootMargin: AHEAD,
    });
    if (end.current) watch.observe(end.current);
    return () => watch.disconnect();
  }, [onReached]);
  return (
    <div ref={end} className="pt-5 text-center">
      <Button onClick={() => onReached()}>Further shoots</Button>
    </div>
  );
}
