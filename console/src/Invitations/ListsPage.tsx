import { Button, Skeleton, Table } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { api, inWorkspace, take } from "../api";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { StateWord } from "../ui/StateWord";
import { instantText, numberText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { InviteNav } from "./InviteNav";

/** The lists that were handed in, and how far each one is. */
export function ListsPage() {
  const { workspace } = useWorkspace();
  const lists = useQuery({
    queryKey: [workspace, "lists"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/batches", inWorkspace(workspace))),
    refetchInterval: 5_000,
  });
  return (
    <Page
      title="Lists"
      actions={
        <Button component={Link} to={`/w/${workspace}/invite/many`}>
          Invite many
        </Button>
      }
    >
      <InviteNav workspace={workspace} />
      <Refusal of={lists.error} />
      {lists.isPending && <Skeleton height={160} />}
      {lists.data?.items.length === 0 && (
        <p className="sheet">No list has been handed in. Invite many from a file or a pasted list.</p>
      )}
      {lists.data && lists.data.items.length > 0 && (
        <div className="sheet table-holder">
          <Table verticalSpacing={8}>
            <Table.Thead>
              <Table.Tr>
                <Table.Th>List</Table.Th>
                <Table.Th>State</Table.Th>
                <Table.Th ta="right">Entries</Table.Th>
                <Table.Th ta="right">Sent</Table.Th>
                <Table.Th ta="right">To be mended</Table.Th>
                <Table.Th>Handed in</Table.Th>
              </Table.Tr>
            </Table.Thead>
            <Table.Tbody>
              {lists.data.items.map((list) => (
                <Table.Tr key={list.id}>
                  <Table.Td>
                    <Link to="/w/$workspace/invite/lists/$id" params={{ workspace, id: list.id }}>
                      {list.name}
                    </Link>
                  </Table.Td>
                  <Table.Td>
                    <StateWord state={list.state} />
                  </Table.Td>
                  <Table.Td ta="right">{numberText(list.entries)}</Table.Td>
                  <Table.Td ta="right">{numberText(list.counts.sent ?? 0)}</Table.Td>
                  <Table.Td ta="right">
                    {numberText((list.counts.wrong ?? 0) + (list.counts.blocked ?? 0))}
                  </Table.Td>
                  <Table.Td>
                    {instantText(list.createdAt)} by {list.createdBy}
                  </Table.Td>
                </Table.Tr>
              ))}
            </Table.Tbody>
          </Table>
        </div>
      )}
    </Page>
  );
}
