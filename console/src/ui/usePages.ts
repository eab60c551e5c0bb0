import { useInfiniteQuery } from "@tanstack/react-query";
import { pagesOf } from "../queries";

type Key = Parameters<typeof pagesOf>[0];

/** A list that comes in pages: all that was read of it so far, and reading on. */
export function usePages<T>(
  key: Key,
  page: (cursor: string | undefined) => Promise<{ items: T[]; next: string | null }>,
  options: { refetchInterval?: number } = {},
) {
  const list = useInfiniteQuery({ ...pagesOf(key, page), ...options });
  return {
    items: list.data?.pages.flatMap((one) => one.items),
    error: list.error,
    hasMore: list.hasNextPage,
    isReading: list.isFetchingNextPage,
    more: () => list.fetchNextPage(),
  };
}
