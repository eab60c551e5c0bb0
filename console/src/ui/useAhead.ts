import { type RegisteredRouter, useRouter } from "@tanstack/react-router";
import { useEffect } from "react";
import { peopleOf, queries } from "../queries";

type Place = keyof RegisteredRouter["routesByPath"];

// Pages people live on, whose data the router asks for.
const lived = ["/w/$workspace", "/w/$workspace/invite", "/w/$workspace/people", "/w/$workspace/record"];

/**
 * Makes ready what the first clicks lead to, while nothing else is to be done: pages people live on, and whoever is first among the
 * people, are drawn once where nobody sees it; of the others the code is read.
 */
export function useAhead(workspace: string, places: Place[]) {
  const router = useRouter();
  const wanted = places.join(" ");
  useEffect(() => {
    let isOver = false;
    const inTurn = async <T>(all: Iterable<T>, act: (one: T) => Promise<void>) => {
      for (const one of all) {
        await untilIdle();
        if (isOver) return;
        try {
          await act(one);
        } catch {
          // What cannot be read now is asked for again, and its fault said, when somebody goes there.
        }
      }
    };
    const makeReady = async () => {
      const all = wanted.split(" ").filter(Boolean) as Place[];
      await inTurn(pathsOf(workspace, all), async (path) => {
        const { drawAhead } = await import("./drawAhead");
        await drawAhead(router, path);
      });
      await inTurn(all, async (place) => router.loadRouteChunk(router.routesByPath[place]));
    };
    makeReady();
    return () => {
      isOver = true;
    };
  }, [router, workspace, wanted]);
}

function* pathsOf(workspace: string, places: string[]) {
  for (const place of lived.filter((place) => places.includes(place)))
    yield place.replace("$workspace", workspace);
  // Known since the people were drawn.
  const first = queries.getQueryData(peopleOf(workspace, {}).queryKey)?.pages[0]?.items[0];
  if (first && places.includes("/w/$workspace/people")) yield `/w/${workspace}/people/${first.id}`;
}

// One browser has no word for it; half a second after the page is there it is at rest, too.
const untilIdle = () =>
  new Promise<void>((resolve) => {
    if ("requestIdleCallback" in window) window.requestIdleCallback(() => resolve());
    else setTimeout(resolve, 500);
  });
