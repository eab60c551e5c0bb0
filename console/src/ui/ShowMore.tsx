import { Button } from "@mantine/core";
import type { usePages } from "./usePages";

/** Reads on in a list that comes in pages; nothing when all of it is there. */
export function ShowMore({
  of,
}: {
  of: Pick<ReturnType<typeof usePages>, "hasMore" | "isReading" | "more">;
}) {
  return of.hasMore ? (
    <Button variant="default" mt="sm" loading={of.isReading} onClick={of.more}>
      Show more
    </Button>
  ) : null;
}
