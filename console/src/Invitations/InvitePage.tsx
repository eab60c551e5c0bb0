import { Button, Group, Skeleton, Table } from "@mantine/core";
import { useInfiniteQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { api, type Invitation, take } from "../api";
import { ListSearchBox } from "../ui/ListSearchBox";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { StateWord } from "../ui/StateWord";
import { dayOf, dayText, distanceText, instantText, nearText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";

/** Every invitation: counts by state, filter, search, and where each one stands. */
export function InvitePage() {
  const { workspace, today } = useWorkspace();
  const search = useSearch({ from: "/w/$workspace/invite" });
  const navigate = useNavigate({ from: "/w/$workspace/invite" });
  const list = useInfiniteQuery({
    queryKey: [workspace, "invitations", search],
    initialPageParam: undefined as string | undefined,
    queryFn: ({ pageParam }) =>
      take(
        api.GET("/api/v1/workspaces/{workspace}/invitations", {
          params: { path: { workspace }, query: query(search, pageParam) },
        }),
      ),
    getNextPageParam: (page) => page.next ?? undefined,
    refetchInterval: 5_000,
  });
  const counts = list.data?.pages[0]?.counts;
  const found = list.data?.pages.flatMap((page) => page.items) ?? [];
  const invite = (
    <Button component={Link} to={`/w/${workspace}/invite/new`}>
      Invite someone
    </Button>
  );
  return (
    <Page title="Invite" actions={invite}>
      <Group justify="space-between" align="start">
        <nav className="state-chips" aria-label="Invitations by state">
          <StateChip workspace={workspace} current={search.state} />
          {counts &&
            Object.entries(counts).map(([state, count]) => (
              <StateChip
                key={state}
                workspace={workspace}
                current={search.state}
                state={state}
                count={count}
              />
            ))}
        </nav>
        <ListSearchBox
          value={search.search}
          onSearch={(words) => navigate({ search: { ...search, search: words }, replace: true })}
        />
      </Group>
      <Refusal of={list.error} />
      {list.isPending && <Skeleton height={200} />}
      {list.data && found.length === 0 && (
        <p className="sheet">
          {search.state || search.search
            ? "No invitation fits. Choose another state or search for less."
            : "Nobody has been invited yet. Invite someone, and you see here whether they have answered."}
        </p>
      )}
      {found.length > 0 && (
        <div className="sheet table-holder">
          <InvitationTable found={found} workspace={workspace} today={today} />
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

function query(search: { state?: string; search?: string }, cursor?: string) {
  return { state: search.state, search: search.search, cursor };
}

function StateChip(props: { workspace: string; current?: string; state?: string; count?: number }) {
  return (
    <Link
      className={props.current === props.state ? "state-chip current" : "state-chip"}
      to="/w/$workspace/invite"
      params={{ workspace: props.workspace }}
      search={(before) => ({ ...before, state: props.state })}
      activeOptions={{ exact: true, explicitUndefined: true }}
    >
      {props.state ? (
        <>
          <strong>{props.count}</strong> <StateWord state={props.state} />
        </>
      ) : (
        "all"
      )}
    </Link>
  );
}

function InvitationTable(props: { found: Invitation[]; workspace: string; today: string }) {
  return (
    <Table verticalSpacing={8} highlightOnHover>
      <Table.Thead>
        <Table.Tr>
          <Table.Th>Who</Table.Th>
          <Table.Th>Kind</Table.Th>
          <Table.Th>State</Table.Th>
          <Table.Th>Last step</Table.Th>
          <Table.Th>Answer by</Table.Th>
          <Table.Th className="one-line">Stay until</Table.Th>
        </Table.Tr>
      </Table.Thead>
      <Table.Tbody>
        {props.found.map((invitation) => (
          <Table.Tr key={invitation.id}>
            <Table.Td>
              <Link to="/w/$workspace/invite/$id" params={{ workspace: props.workspace, id: invitation.id }}>
                {invitation.name || invitation.address}
              </Link>
              {invitation.name && <div className="soft">{invitation.address}</div>}
            </Table.Td>
            <Table.Td>
              <Pennant kind={invitation.kind} />
            </Table.Td>
            <Table.Td>
              <StateWord state={invitation.state} />
              {trouble(invitation) && <div className="soft">{trouble(invitation)}</div>}
            </Table.Td>
            <Table.Td className="one-line" title={instantText(invitation.lastStepAt)}>
              {nearText(dayOf(invitation.lastStepAt), props.today)}
            </Table.Td>
            <Table.Td className="one-line" title={instantText(invitation.deadline)}>
              {invitation.state === "queued" || invitation.state === "sent"
                ? distanceText(dayOf(invitation.deadline), props.today)
                : "–"}
            </Table.Td>
            <Table.Td className="one-line">
              {invitation.until ? dayText(invitation.until) : "no end"}
            </Table.Td>
          </Table.Tr>
        ))}
      </Table.Tbody>
    </Table>
  );
}

/** What is in the way of the mail, if anything. */
function trouble(invitation: Invitation): string | undefined {
  const delivery = invitation.delivery;
  if (!delivery || delivery.state === "accepted" || delivery.state === "failed") return undefined;
  return delivery.tries > 0 ? delivery.sentence : undefined;
}
