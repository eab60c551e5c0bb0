import { type RegisteredRouter, useRouter } from "@tanstack/react-router";
import { useEffect } from "react";

type Place = keyof RegisteredRouter["routesByPath"];

/** Reads the code of pages while nothing else is to be done, one after another, so that the first click on each finds it there. */
export function useCodeAhead(places: Place[]) {
  const router = useRouter();
  const wanted = places.join(" ");
  useEffect(() => {
    const all = wanted.split(" ").filter(Boolean) as Place[];
    const next = async () => {
      const place = all.shift();
      if (place === undefined) return;
      try {
        await router.loadRouteChunk(router.routesByPath[place]);
      } catch {
        // What cannot be read now is asked for again, and its fault said, when somebody goes there.
      }
      whenIdle(next);
    };
    whenIdle(next);
    return () => {
      all.length = 0;
    };
  }, [router, wanted]);
}

// One browser has no word for it; half a second after the page is there it is at rest, too.
const whenIdle = (act: () => void) =>
  "requestIdleCallback" in window ? window.requestIdleCallback(act) : setTimeout(act, 500);
