import { Alert, Button, Skeleton, Table } from "@mantine/core";
import { useInfiniteQuery, useMutation } from "@tanstack/react-query";
import { api, inWorkspace, type RecordEntry, take } from "../api";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { actionText, instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";

/** Everything that happened, newest first, and the proof that nothing was changed afterwards. */
export function RecordPage() {
  const { workspace } = useWorkspace();
  const list = useInfiniteQuery({
    queryKey: [workspace, "record"],
    initialPageParam: undefined as string | undefined,
    queryFn: ({ pageParam }) =>
      take(
        api.GET("/api/v1/workspaces/{workspace}/record", {
          params: { path: { workspace }, query: { cursor: pageParam } },
        }),
      ),
    getNextPageParam: (page) => page.next ?? undefined,
  });
  const verify = useMutation({
    mutationFn: () =>
      take(api.GET("/api/v1/workspaces/{workspace}/record/verification", inWorkspace(workspace))),
  });
  const entries = list.data?.pages.flatMap((page) => page.items) ?? [];
  return (
    <Page
      title="Record"
      actions={
        <Button variant="default" onClick={() => verify.mutate()} loading={verify.isPending}>
          Verify the record
        </Button>
      }
    >
      <Refusal of={list.error ?? verify.error} />
      {verify.data && (
        <Alert
          color={verify.data.whole ? "fair" : "alarm"}
          variant="light"
          role="status"
          title={verify.data.whole ? "The record is whole." : "The record is not whole."}
        >
          {verify.data.whole
            ? `${verify.data.entries} entries, each in its place and unchanged. Head: ${verify.data.head}`
            : `${verify.data.faultSentence} The ${verify.data.entries} entries before it are good.`}
        </Alert>
      )}
      {list.isPending && <Skeleton height={300} />}
      {entries.length > 0 && (
        <div className="sheet table-holder">
          <Table verticalSpacing={6}>
            <Table.Thead>
              <Table.Tr>
                <Table.Th style={{ textAlign: "right" }}>No</Table.Th>
                <Table.Th>When</Table.Th>
                <Table.Th>What</Table.Th>
                <Table.Th>About</Table.Th>
                <Table.Th>Who</Table.Th>
                <Table.Th>Through</Table.Th>
              </Table.Tr>
            </Table.Thead>
            <Table.Tbody>
              {entries.map((entry) => (
                <Table.Tr key={entry.sequence}>
                  <Table.Td style={{ textAlign: "right", fontVariantNumeric: "tabular-nums" }}>
                    {entry.sequence}
                  </Table.Td>
                  <Table.Td style={{ whiteSpace: "nowrap" }}>{instantText(entry.at)}</Table.Td>
                  <Table.Td title={detailsText(entry)}>{actionText(entry.action)}</Table.Td>
                  <Table.Td>{about(entry)}</Table.Td>
                  <Table.Td>{entry.actorName ?? entry.actor}</Table.Td>
                  <Table.Td>{entry.via}</Table.Td>
                </Table.Tr>
              ))}
            </Table.Tbody>
          </Table>
        </div>
      )}
      {list.hasNextPage && (
        <Button variant="default" onClick={() => list.fetchNextPage()} loading={list.isFetchingNextPage}>
          Show more
        </Button>
      )}
    </Page>
  );
}

function details(entry: RecordEntry): Record<string, unknown> {
  return (entry.details ?? {}) as Record<string, unknown>;
}

function about(entry: RecordEntry): string {
  const known = details(entry);
  return String(known.address ?? known.name ?? known.label ?? entry.subject);
}

function detailsText(entry: RecordEntry): string {
  return Object.entries(details(entry))
    .map(([name, value]) => `${name}: ${value}`)
    .join("\n");
}
