import { useInfiniteQuery } from "@tanstack/react-query";

/** A list that comes in pages: all that was read of it so far, and reading on. */
export function usePages<T>(
  key: unknown[],
  page: (cursor: string | undefined) => Promise<{ items: T[]; next: string | null }>,
  options: { refetchInterval?: number } = {},
) {
  const list = useInfiniteQuery({
    queryKey: key,
    initialPageParam: undefined as string | undefined,
    queryFn: ({ pageParam }) => page(pageParam),
    getNextPageParam: (last) => last.next ?? undefined,
    ...options,
  });
  return {
    items: list.data?.pages.flatMap((one) => one.items),
    error: list.error,
    hasMore: list.hasNextPage,
    isReading: list.isFetchingNextPage,
    more: () => list.fetchNextPage(),
  };
}
