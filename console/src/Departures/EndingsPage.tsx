import { Button, Skeleton, Table, Title } from "@mantine/core";
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { api, type Departure, inWorkspace, take } from "../api";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { StateWord } from "../ui/StateWord";
import { dayText, distanceText, instantText } from "../ui/words";
import { EndingSoon } from "../Workspaces/OverviewPage";
import { useWorkspace } from "../Workspaces/useWorkspace";

/** Whose time ends soon, and whose has ended. */
export function EndingsPage() {
  const { workspace, today } = useWorkspace();
  const overview = useQuery({
    queryKey: [workspace, "overview"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/overview", inWorkspace(workspace))),
  });
  const departures = useInfiniteQuery({
    queryKey: [workspace, "departures"],
    initialPageParam: undefined as string | undefined,
    queryFn: ({ pageParam }) =>
      take(
        api.GET("/api/v1/workspaces/{workspace}/departures", {
          params: { path: { workspace }, query: { cursor: pageParam } },
        }),
      ),
    getNextPageParam: (page) => page.next ?? undefined,
  });
  const found = departures.data?.pages.flatMap((page) => page.items) ?? [];
  return (
    <Page title="Endings">
      <Refusal of={overview.error ?? departures.error} />
      <section className="sheet" aria-labelledby="soon">
        <Title order={2} size="h4" id="soon" mb="sm">
          Ends within 30 days
        </Title>
        {overview.data ? (
          <EndingSoon people={overview.data.endingSoon} workspace={workspace} today={today} />
        ) : (
          <Skeleton height={120} />
        )}
      </section>
      <section className="sheet" aria-labelledby="departures">
        <Title order={2} size="h4" id="departures" mb="sm">
          Departures
        </Title>
        {departures.data && found.length === 0 && (
          <span className="soft">None yet. To end somebody's access, open their page under People.</span>
        )}
        {found.length > 0 && <Departures found={found} workspace={workspace} today={today} />}
        {departures.hasNextPage && (
          <Button variant="default" mt="sm" onClick={() => departures.fetchNextPage()}>
            Show more
          </Button>
        )}
      </section>
    </Page>
  );
}

function Departures(props: { found: Departure[]; workspace: string; today: string }) {
  return (
    <div className="table-holder">
      <Table verticalSpacing={8}>
        <Table.Thead>
          <Table.Tr>
            <Table.Th>Who</Table.Th>
            <Table.Th>State</Table.Th>
            <Table.Th>Last day</Table.Th>
            <Table.Th>Decided by</Table.Th>
            <Table.Th>Ended</Table.Th>
          </Table.Tr>
        </Table.Thead>
        <Table.Tbody>
          {props.found.map((departure) => (
            <Table.Tr key={departure.id}>
              <Table.Td>
                <Link
                  to="/w/$workspace/people/$id"
                  params={{ workspace: props.workspace, id: departure.memberId }}
                >
                  {departure.name}
                </Link>
                <div className="soft">{departure.address}</div>
              </Table.Td>
              <Table.Td>
                <StateWord state={departure.state} />
              </Table.Td>
              <Table.Td title={departure.on ? dayText(departure.on) : undefined}>
                {departure.on ? distanceText(departure.on, props.today) : "at once"}
              </Table.Td>
              <Table.Td>
                {departure.requestedBy === "the service" ? "the agreed end date" : departure.requestedBy}
              </Table.Td>
              <Table.Td>{departure.doneAt ? instantText(departure.doneAt) : "–"}</Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
    </div>
  );
}
