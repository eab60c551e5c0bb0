import { MantineProvider } from "@mantine/core";
import { QueryClientProvider } from "@tanstack/react-query";
import { type AnyRouter, createMemoryHistory, createRouter, RouterProvider } from "@tanstack/react-router";
import { Activity } from "react";
import { createRoot } from "react-dom/client";
import { queries } from "../queries";
import { theme } from "../theme";

/**
 * Draws a page once where nobody sees it, and throws it away: its data is there then, and its code has run before. Nothing of it
 * takes effect, neither its title nor its address, and whatever fails is said when somebody goes there.
 */
export async function drawAhead(router: AnyRouter, path: string) {
  const there = createRouter({
    ...router.options,
    history: createMemoryHistory({ initialEntries: [path] }),
  });
  await there.load();
  // What came late is not drawn by itself, where nothing takes effect.
  while (queries.isFetching() > 0) await new Promise((resolve) => setTimeout(resolve, 50));
  const room = document.createElement("div");
  const drawing = createRoot(room, { onUncaughtError: quietly, onCaughtError: quietly });
  drawing.render(
    <Activity mode="hidden">
      <MantineProvider theme={theme} withCssVariables={false} withGlobalClasses={false}>
        <QueryClientProvider client={queries}>
          <RouterProvider router={there} />
        </QueryClientProvider>
      </MantineProvider>
    </Activity>,
  );
  await drawn(room);
  drawing.unmount();
}

const quietly = () => {};

/** Until a page has its heading and nothing is missing any more; what never comes is not waited for. */
const drawn = (room: Element) =>
  new Promise<void>((resolve) => {
    const watch = new MutationObserver(() => {
      if (room.querySelector("main h1") && !room.querySelector(".mantine-Skeleton-root")) end();
    });
    const end = () => {
      watch.disconnect();
      clearTimeout(limit);
      resolve();
    };
    const limit = setTimeout(end, 2_000);
    watch.observe(room, { childList: true, subtree: true });
  });
