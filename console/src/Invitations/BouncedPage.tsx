import { Button, Skeleton, Table } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { api, inWorkspace, take } from "../api";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { InviteNav } from "./InviteNav";

const path = "/api/v1/workspaces/{workspace}/bounced-addresses";

/** Addresses at which mail came back for good, why, and taking one off the list. */
export function BouncedPage() {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const bounced = useQuery({
    queryKey: [workspace, "bounced"],
    queryFn: () => take(api.GET(path, inWorkspace(workspace))),
  });
  const forget = useMutation({
    mutationFn: (address: string) =>
      take(api.DELETE(`${path}/{address}`, { params: { path: { workspace, address } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: [workspace, "bounced"] }),
  });
  return (
    <Page title="Bounced addresses">
      <InviteNav workspace={workspace} />
      <Refusal of={bounced.error ?? forget.error} />
      {bounced.isPending && <Skeleton height={160} />}
      {bounced.data?.items.length === 0 && <p className="sheet">No mail came back for good.</p>}
      {bounced.data && bounced.data.items.length > 0 && (
        <div className="sheet table-holder">
          <Table verticalSpacing={8}>
            <Table.Thead>
              <Table.Tr>
                <Table.Th>Address</Table.Th>
                <Table.Th>Why</Table.Th>
                <Table.Th>When</Table.Th>
                <Table.Th>
                  <span className="visually-hidden">Take off the list</span>
                </Table.Th>
              </Table.Tr>
            </Table.Thead>
            <Table.Tbody>
              {bounced.data.items.map((one) => (
                <Table.Tr key={one.address}>
                  <Table.Td>
                    <Link to="/w/$workspace/invite" params={{ workspace }} search={{ search: one.address }}>
                      {one.address}
                    </Link>
                  </Table.Td>
                  <Table.Td>
                    {one.sentence}
                    <div className="soft">{one.answer}</div>
                  </Table.Td>
                  <Table.Td className="one-line">{instantText(one.at)}</Table.Td>
                  <Table.Td>
                    <Button
                      size="xs"
                      variant="default"
                      aria-label={`Take ${one.address} off the list`}
                      onClick={() => forget.mutate(one.address)}
                    >
                      It works again
                    </Button>
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
