import { infiniteQueryOptions, QueryClient, type QueryKey, queryOptions } from "@tanstack/react-query";
import { api, inWorkspace, Refused, take } from "./api";
import type { ListSearch } from "./router";

const lately = 2_000;

/** What has been asked of the service, kept for all pages. */
export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, fault) => !(fault instanceof Refused) && count < 2,
      staleTime: lately,
      // What was refused a moment ago, when it was asked for ahead of its page, is not asked again by the page.
      retryOnMount: ({ state }) =>
        !(state.error instanceof Refused && Date.now() - state.errorUpdatedAt < lately),
    },
  },
});

export const overviewOf = (workspace: string) =>
  queryOptions({
    queryKey: [workspace, "overview"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/overview", inWorkspace(workspace))),
  });

export const invitationsOf = (workspace: string, search: ListSearch) =>
  pagesOf([workspace, "invitations", search], (cursor) =>
    take(
      api.GET("/api/v1/workspaces/{workspace}/invitations", {
        params: { path: { workspace }, query: { ...filterOf(search), cursor } },
      }),
    ),
  );

/** What of an address narrows or orders the list of invitations. */
export function filterOf(search: ListSearch) {
  const { state, kind, search: words, sort, batch, link } = search;
  return { state, kind, search: words, sort, batch, link };
}

export const peopleOf = (workspace: string, search: ListSearch) =>
  pagesOf([workspace, "people", search], (cursor) =>
    take(
      api.GET("/api/v1/workspaces/{workspace}/people", {
        params: { path: { workspace }, query: { ...search, cursor } },
      }),
    ),
  );

const person = "/api/v1/workspaces/{workspace}/people/{person}";

const personIn = (workspace: string, id: string) => ({ params: { path: { workspace, person: id } } });

export const personOf = (workspace: string, id: string) =>
  queryOptions({
    queryKey: [workspace, "person", id],
    queryFn: () => take(api.GET(person, personIn(workspace, id))),
  });

/** What happened to a person. */
export const historyOf = (workspace: string, id: string) =>
  queryOptions({
    queryKey: [workspace, "person", id, "history"],
    queryFn: () => take(api.GET(`${person}/history`, personIn(workspace, id))),
  });

/** What a person did lately. */
export const activityOf = (workspace: string, id: string) =>
  queryOptions({
    queryKey: [workspace, "person", id, "activity"],
    queryFn: () => take(api.GET(`${person}/activity`, personIn(workspace, id))),
  });

/** What a person may do, and why. */
export const accessOf = (workspace: string, id: string) =>
  queryOptions({
    queryKey: [workspace, "person", id, "access"],
    queryFn: () => take(api.GET(`${person}/access`, personIn(workspace, id))),
  });

/** By which key the record is kept, and how a page of it is asked for. */
export const recordOf = (workspace: string) =>
  [
    [workspace, "record"],
    (cursor: string | undefined) =>
      take(
        api.GET("/api/v1/workspaces/{workspace}/record", {
          params: { path: { workspace }, query: { cursor } },
        }),
      ),
  ] as const;

/** A list that comes in pages, each of which says where the next begins. */
export function pagesOf<T extends { next?: string | null }>(
  key: QueryKey,
  page: (cursor: string | undefined) => Promise<T>,
) {
  return infiniteQueryOptions({
    queryKey: key,
    initialPageParam: undefined as string | undefined,
    queryFn: ({ pageParam }) => page(pageParam),
    getNextPageParam: (last) => last.next ?? undefined,
  });
}

// A page that has its data within this is drawn once, and not as an outline first.
const patience = 100;

/** Asks for what a page will show while its code is on its way; what is known already is not waited for. */
export function ahead(...asked: Promise<unknown>[]) {
  // What is refused, or fails, is said by the page.
  return Promise.race([Promise.allSettled(asked), new Promise((resolve) => setTimeout(resolve, patience))]);
}
