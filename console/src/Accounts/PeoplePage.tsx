import { Button, Group, Skeleton, Table } from "@mantine/core";
import { useInfiniteQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { peopleOf } from "../queries";
import { Allowed } from "../ui/Allowed";
import { CsvLink } from "../ui/CsvLink";
import { InSightFirst } from "../ui/InSightFirst";
import { ListSearchBox } from "../ui/ListSearchBox";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { StateWord } from "../ui/StateWord";
import { StayBar } from "../ui/StayBar";
import { Tick } from "../ui/Tick";
import { dayText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { DetailsDialog, PersonSteps } from "./PersonSteps";

const states = [undefined, "active", "upcoming", "paused", "ended"];
const kinds = [undefined, "staff", "guest", "partner", "client"];

/** Everybody who is or was here, with their stay on a time line. */
export function PeoplePage() {
  const { workspace, today } = useWorkspace();
  const search = useSearch({ from: "/w/$workspace/people" });
  const navigate = useNavigate({ from: "/w/$workspace/people" });
  const list = useInfiniteQuery(peopleOf(workspace, search));
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [isChanging, setChanging] = useState(false);
  const choose = (id: string) =>
    setChosen((before) => {
      const after = new Set(before);
      if (!after.delete(id)) after.add(id);
      return after;
    });
  const found = list.data?.pages.flatMap((page) => page.items) ?? [];
  const picked = found.filter((person) => chosen.has(person.id));
  return (
    <Page
      title="People"
      actions={
        <CsvLink
          workspace={workspace}
          list={`people?format=csv&${new URLSearchParams(Object.entries(search).filter(([, word]) => word) as [string, string][])}`}
        />
      }
    >
      <Group justify="space-between" align="start">
        <Group gap="lg">
          <nav className="state-chips" aria-label="People by state">
            {states.map((state) => (
              <Chip
                key={state ?? "all"}
                workspace={workspace}
                part={{ state }}
                isCurrent={search.state === state}
              >
                {state ? <StateWord state={state} /> : "all"}
              </Chip>
            ))}
          </nav>
          <nav className="state-chips" aria-label="People by kind">
            {kinds.map((kind) => (
              <Chip
                key={kind ?? "all"}
                workspace={workspace}
                part={{ kind }}
                isCurrent={search.kind === kind}
              >
                {kind ? <Pennant kind={kind} /> : "every kind"}
              </Chip>
            ))}
          </nav>
        </Group>
        <ListSearchBox
          value={search.search}
          onSearch={(words) => navigate({ search: { ...search, search: words }, replace: true })}
        />
      </Group>
      <Refusal of={list.error} />
      {list.isPending && <Skeleton height={200} />}
      {list.data && found.length === 0 && (
        <p className="sheet">Nobody fits. Choose another state or kind, or search for less.</p>
      )}
      {found.length > 0 && (
        <div className="sheet table-holder">
          <Table verticalSpacing={8}>
            <Table.Thead>
              <Table.Tr>
                <Table.Th>
                  <span className="visually-hidden">Chosen</span>
                </Table.Th>
                <Table.Th>Name</Table.Th>
                <Table.Th visibleFrom="sm">Kind</Table.Th>
                <Table.Th visibleFrom="sm">Role</Table.Th>
                <Table.Th visibleFrom="sm">State</Table.Th>
                <Table.Th visibleFrom="sm">Stay</Table.Th>
              </Table.Tr>
            </Table.Thead>
            <Table.Tbody className="rows choosable">
              <InSightFirst rows={found}>
                {(person) => (
                  <tr>
                    <td>
                      <Tick
                        label={`Choose ${person.name}`}
                        disabled={person.state === "ended"}
                        checked={chosen.has(person.id)}
                        onChange={() => choose(person.id)}
                      />
                    </td>
                    <td>
                      <Link to="/w/$workspace/people/$id" params={{ workspace, id: person.id }}>
                        {person.name}
                      </Link>
                      <div className="soft">{person.address}</div>
                      <div className="mantine-hidden-from-sm soft">
                        <StateWord state={person.state} /> <Pennant kind={person.kind} />
                        {person.until && person.state !== "ended" && `, until ${dayText(person.until)}`}
                      </div>
                    </td>
                    <td className="mantine-visible-from-sm">
                      <Pennant kind={person.kind} />
                    </td>
                    <td className="mantine-visible-from-sm">
                      {person.role}
                      {person.isAdministrator && <div className="soft">administrator</div>}
                    </td>
                    <td className="mantine-visible-from-sm">
                      <StateWord state={person.state} />
                    </td>
                    <td className="mantine-visible-from-sm">
                      <StayBar stay={person} today={today} />
                    </td>
                  </tr>
                )}
              </InSightFirst>
            </Table.Tbody>
          </Table>
        </div>
      )}
      {picked.length > 0 && (
        <section className="bulk-bar" aria-label="Chosen people">
          <strong>{picked.length} chosen</strong>
          <PersonSteps
            people={picked}
            verbs={["pause", "resume", "sign-out", "extend", "kind", "grant", "take"]}
          />
          <Allowed duty="people">
            <Button variant="default" onClick={() => setChanging(true)}>
              Change details …
            </Button>
          </Allowed>
          <Button variant="subtle" onClick={() => setChosen(new Set())}>
            Choose none
          </Button>
        </section>
      )}
      {isChanging && <DetailsDialog people={picked} onClose={() => setChanging(false)} />}
      {list.hasNextPage && (
        <Button variant="default" onClick={() => list.fetchNextPage()} loading={list.isFetchingNextPage}>
          Show more
        </Button>
      )}
    </Page>
  );
}

function Chip(props: {
  workspace: string;
  part: { state?: string } | { kind?: string };
  isCurrent: boolean;
  children: React.ReactNode;
}) {
  return (
    <Link
      className={props.isCurrent ? "state-chip current" : "state-chip"}
      to="/w/$workspace/people"
      params={{ workspace: props.workspace }}
      search={(before) => ({ ...before, ...props.part })}
      activeOptions={{ exact: true, explicitUndefined: true }}
    >
      {props.children}
    </Link>
  );
}
