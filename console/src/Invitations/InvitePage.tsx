import { Button, Group, Select, Skeleton, Table } from "@mantine/core";
import { useInfiniteQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import type { Invitation } from "../api";
import { filterOf, invitationsOf } from "../queries";
import type { ListSearch } from "../router";
import { Allowed } from "../ui/Allowed";
import { InSightFirst } from "../ui/InSightFirst";
import { ListSearchBox } from "../ui/ListSearchBox";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { StateWord } from "../ui/StateWord";
import { Tick } from "../ui/Tick";
import { dayOf, dayText, distanceText, instantText, nearText, numberText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { BulkBar, type Chosen } from "./BulkBar";
import { InviteNav } from "./InviteNav";

const orders = [
  { value: "newest", label: "Newest first" },
  { value: "oldest", label: "Oldest first" },
  { value: "deadline", label: "Soonest deadline" },
  { value: "last-step", label: "Latest step" },
];
const kinds = ["staff", "guest", "partner", "client"];

/** Every invitation: counts by state, filter, search, order, and steps for one, several or all that match. */
export function InvitePage() {
  const { workspace, today } = useWorkspace();
  const search = useSearch({ from: "/w/$workspace/invite" });
  const navigate = useNavigate({ from: "/w/$workspace/invite" });
  const [chosen, setChosen] = useState<Chosen>({ ids: new Set(), all: false });
  const list = useInfiniteQuery({ ...invitationsOf(workspace, search), refetchInterval: 5_000 });
  const counts = list.data?.pages[0]?.counts;
  const found = list.data?.pages.flatMap((page) => page.items) ?? [];
  const isNarrowed = Object.values(filterOf(search)).some(Boolean);
  const change = (part: ListSearch) => {
    setChosen({ ids: new Set(), all: false });
    return navigate({ search: { ...search, ...part }, replace: true });
  };
  return (
    <Page
      title="Invite"
      actions={
        <Allowed duty="invite">
          <Button component={Link} to={`/w/${workspace}/invite/many`} variant="default">
            Invite many
          </Button>
          <Button component={Link} to={`/w/${workspace}/invite/new`}>
            Invite someone
          </Button>
        </Allowed>
      }
    >
      <InviteNav />
      <nav className="state-chips" aria-label="Invitations by state">
        <StateChip workspace={workspace} current={search.state} />
        {counts &&
          Object.entries(counts).map(([state, count]) => (
            <StateChip key={state} workspace={workspace} current={search.state} state={state} count={count} />
          ))}
      </nav>
      <Group justify="space-between" align="end">
        <Group align="end">
          <ListSearchBox value={search.search} onSearch={(words) => change({ search: words })} />
          <Select
            aria-label="Kind"
            placeholder="Any kind"
            clearable
            data={kinds}
            value={search.kind ?? null}
            onChange={(kind) => change({ kind: kind ?? undefined })}
            w={140}
          />
          <Select
            aria-label="Order"
            data={orders}
            value={search.sort ?? "newest"}
            onChange={(sort) => change({ sort: sort === "newest" ? undefined : (sort ?? undefined) })}
            allowDeselect={false}
            w={180}
          />
        </Group>
        <a href={exportPath(workspace, search)} download>
          Save this list as CSV
        </a>
      </Group>
      {(search.batch || search.link) && (
        <Group gap="xs">
          <span className="soft">
            {search.batch ? "Only those of one list." : "Only those who came by one join link."}
          </span>
          <Link to="/w/$workspace/invite" params={{ workspace }}>
            Show all
          </Link>
        </Group>
      )}
      <Refusal of={list.error} />
      {list.isPending && <Skeleton height={200} />}
      {list.data && found.length === 0 && (
        <p className="sheet">
          {isNarrowed
            ? "No invitation fits. Choose another state or search for less."
            : "Nobody has been invited yet. Invite someone, and you see here whether they have answered."}
        </p>
      )}
      {found.length > 0 && (
        <div className="sheet table-holder">
          <InvitationTable
            found={found}
            workspace={workspace}
            today={today}
            chosen={chosen}
            onChoose={setChosen}
          />
        </div>
      )}
      {list.hasNextPage && (
        <Button variant="default" onClick={() => list.fetchNextPage()} loading={list.isFetchingNextPage}>
          Show more
        </Button>
      )}
      <BulkBar
        workspace={workspace}
        filter={filterOf(search)}
        canTakeAll={isNarrowed && Boolean(list.hasNextPage)}
        chosen={chosen}
        onChoose={setChosen}
      />
    </Page>
  );
}

function exportPath(workspace: string, search: ListSearch): string {
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries(filterOf(search))) if (value) query.set(name, value);
  return `/api/v1/workspaces/${workspace}/invitations?format=csv&${query}`;
}

function StateChip(props: { workspace: string; current?: string; state?: string; count?: number }) {
  if (props.count === 0 && props.current !== props.state) return null;
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
          <strong>{numberText(props.count ?? 0)}</strong> <StateWord state={props.state} />
        </>
      ) : (
        "all"
      )}
    </Link>
  );
}

function InvitationTable(props: {
  found: Invitation[];
  workspace: string;
  today: string;
  chosen: Chosen;
  onChoose: (chosen: Chosen) => void;
}) {
  const { found, chosen } = props;
  const allShown = found.every((invitation) => chosen.ids.has(invitation.id));
  const toggle = (id: string) => {
    const ids = new Set(chosen.ids);
    if (!ids.delete(id)) ids.add(id);
    props.onChoose({ ids, all: false });
  };
  return (
    <Table verticalSpacing={8}>
      <Table.Thead>
        <Table.Tr>
          <Table.Th w={36}>
            <Tick
              label="Choose all shown"
              checked={allShown}
              isPartly={!allShown && chosen.ids.size > 0}
              onChange={() =>
                props.onChoose({ ids: new Set(allShown ? [] : found.map(({ id }) => id)), all: false })
              }
            />
          </Table.Th>
          <Table.Th>Who</Table.Th>
          <Table.Th>Kind</Table.Th>
          <Table.Th>State</Table.Th>
          <Table.Th>Last step</Table.Th>
          <Table.Th>Answer by</Table.Th>
          <Table.Th className="one-line">Stay until</Table.Th>
        </Table.Tr>
      </Table.Thead>
      <Table.Tbody className="rows choosable">
        <InSightFirst rows={found}>
          {(invitation) => (
            <tr>
              <td>
                <Tick
                  label={`Choose ${invitation.name || invitation.address}`}
                  checked={chosen.all || chosen.ids.has(invitation.id)}
                  onChange={() => toggle(invitation.id)}
                />
              </td>
              <td>
                <Link
                  to="/w/$workspace/invite/$id"
                  params={{ workspace: props.workspace, id: invitation.id }}
                >
                  {invitation.name || invitation.address}
                </Link>
                {invitation.name && <div className="soft">{invitation.address}</div>}
                {invitation.organisation && <div className="soft">{invitation.organisation}</div>}
              </td>
              <td>
                <Pennant kind={invitation.kind} />
              </td>
              <td>
                <StateWord state={invitation.state} />
                {trouble(invitation) && <div className="soft">{trouble(invitation)}</div>}
              </td>
              <td className="one-line" title={instantText(invitation.lastStepAt)}>
                {nearText(dayOf(invitation.lastStepAt), props.today)}
              </td>
              <td className="one-line" title={instantText(invitation.deadline)}>
                {invitation.state === "queued" || invitation.state === "sent"
                  ? distanceText(dayOf(invitation.deadline), props.today)
                  : "–"}
              </td>
              <td className="one-line">{invitation.until ? dayText(invitation.until) : "no end"}</td>
            </tr>
          )}
        </InSightFirst>
      </Table.Tbody>
    </Table>
  );
}

/** What is in the way of the mail, if anything. */
function trouble(invitation: Invitation): string | undefined {
  const delivery = invitation.delivery;
  if (!delivery || ["accepted", "delivered", "failed"].includes(delivery.state)) return undefined;
  return delivery.tries > 0 ? delivery.sentence : undefined;
}
