import { Alert, Button, Group, Progress, Skeleton, Stack, Table } from "@mantine/core";
import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams, useSearch } from "@tanstack/react-router";
import { useEffect } from "react";
import { ToClaims } from "../Accounts/ToClaims";
import { api, type Batch, type BatchEntry, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { StateWord } from "../ui/StateWord";
import { numberText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { InviteNav } from "./InviteNav";
import { MendForm } from "./MendForm";

const path = "/api/v1/workspaces/{workspace}/batches/{id}";
const works = (batch?: Batch) => batch?.state === "reading" || batch?.state === "sending";

/** One list: the verdict on every entry, mending the wrong ones in place, sending the good ones, and how far that is. */
export function ListPage() {
  const { workspace } = useWorkspace();
  const { id } = useParams({ from: "/w/$workspace/invite/lists/$id" });
  const { verdict } = useSearch({ from: "/w/$workspace/invite/lists/$id" });
  const queries = useQueryClient();
  const place = { params: { path: { workspace, id } } };
  const found = useQuery({
    queryKey: [workspace, "list", id],
    queryFn: () => take(api.GET(path, place)),
  });
  const batch = found.data;
  useProgress(workspace, id, works(batch));
  const entries = useInfiniteQuery({
    queryKey: [workspace, "list", id, "entries", verdict ?? ""],
    initialPageParam: undefined as string | undefined,
    queryFn: ({ pageParam }) =>
      take(
        api.GET(`${path}/entries`, {
          params: { path: { workspace, id }, query: { verdict, cursor: pageParam, limit: 100 } },
        }),
      ),
    getNextPageParam: (page) => page.next ?? undefined,
    // The states of what was sent change as people answer.
    refetchInterval: 5_000,
  });
  const send = useMutation({
    mutationFn: () => take(api.POST(`${path}/send`, place)),
    onSuccess: (begun) => queries.setQueryData([workspace, "list", id], begun),
    onSettled: () => queries.invalidateQueries({ queryKey: [workspace, "list", id] }),
  });
  const good = (batch?.counts.ready ?? 0) + (batch?.counts.personal ?? 0);
  const shown = entries.data?.pages.flatMap((page) => page.items) ?? [];
  return (
    <Page
      title={batch?.name ?? "List"}
      actions={
        batch && (
          <>
            <Button
              component="a"
              variant="default"
              href={`/api/v1/workspaces/${workspace}/batches/${id}/entries?format=csv`}
              download
            >
              Results as CSV
            </Button>
            {good > 0 && !works(batch) && (
              <Allowed duty="invite">
                <Button loading={send.isPending} onClick={() => send.mutate()}>
                  {`Send the ${numberText(good)} that can be sent`}
                </Button>
              </Allowed>
            )}
          </>
        )
      }
    >
      <InviteNav />
      <Refusal of={found.error ?? send.error ?? entries.error} />
      {!batch && !found.error && <Skeleton height={200} />}
      {batch && (
        <>
          <Where batch={batch} workspace={workspace} />
          <nav className="state-chips" aria-label="Entries by verdict">
            <Chip id={id} workspace={workspace} current={verdict} name="all" count={batch.entries} />
            {Object.entries(batch.counts)
              .filter(([, count]) => count > 0)
              .map(([name, count]) => (
                <Chip
                  key={name}
                  id={id}
                  workspace={workspace}
                  current={verdict}
                  verdict={name}
                  name={name}
                  count={count}
                />
              ))}
          </nav>
          <div className="sheet table-holder">
            <Table verticalSpacing={8}>
              <Table.Thead>
                <Table.Tr>
                  <Table.Th ta="right">No</Table.Th>
                  <Table.Th>Who</Table.Th>
                  <Table.Th>Verdict</Table.Th>
                  <Table.Th>Why, and what to do</Table.Th>
                </Table.Tr>
              </Table.Thead>
              <Table.Tbody>
                {shown.map((entry) => (
                  <Entry
                    key={entry.number}
                    entry={entry}
                    workspace={workspace}
                    batch={id}
                    canMend={!works(batch)}
                  />
                ))}
              </Table.Tbody>
            </Table>
            {entries.data && shown.length === 0 && <p>No entry has this verdict.</p>}
          </div>
          {entries.hasNextPage && (
            <Button
              variant="default"
              onClick={() => entries.fetchNextPage()}
              loading={entries.isFetchingNextPage}
            >
              Show more
            </Button>
          )}
        </>
      )}
    </Page>
  );
}

/** Follows the work on a list by the events the service sends, until the list rests. */
function useProgress(workspace: string, id: string, isWorking: boolean) {
  const queries = useQueryClient();
  useEffect(() => {
    if (!isWorking) return;
    const events = new EventSource(`/api/v1/workspaces/${workspace}/batches/${id}/progress`);
    events.addEventListener("progress", (event) => {
      const batch = JSON.parse(event.data) as Batch;
      queries.setQueryData([workspace, "list", id], batch);
      if (works(batch)) return;
      events.close();
      queries.invalidateQueries({ queryKey: [workspace, "list", id] });
    });
    return () => events.close();
  }, [workspace, id, isWorking, queries]);
}

function Where({ batch, workspace }: { batch: Batch; workspace: string }) {
  const open = (batch.counts.wrong ?? 0) + (batch.counts.blocked ?? 0);
  return (
    <Stack gap="sm">
      {works(batch) && (
        <section className="sheet" aria-label="Progress">
          <Group justify="space-between">
            <span role="status">
              {batch.state === "reading" ? "Reading" : "Sending"}: {numberText(batch.done)} of{" "}
              {numberText(batch.total ?? 0)}
            </span>
            <span className="soft">
              {batch.perSecond ? `${numberText(Math.round(batch.perSecond))} a second` : ""}
              {batch.secondsLeft ? ` · ${Math.ceil(batch.secondsLeft)} s left` : ""}
            </span>
          </Group>
          <Progress
            mt="xs"
            aria-label="Entries done"
            value={batch.total ? (100 * batch.done) / batch.total : 0}
          />
        </section>
      )}
      {batch.fault && (
        <Alert color="alarm" variant="light" title="The list stopped.">
          {batch.fault}
        </Alert>
      )}
      {batch.encoding && batch.encoding !== "UTF-8" && (
        <span>Its letters were read as {batch.encoding}.</span>
      )}
      {batch.unknownColumns.length > 0 && (
        <span>
          Not known, and therefore not used: {batch.unknownColumns.map((column) => `“${column}”`).join(", ")}.
        </span>
      )}
      {!works(batch) && open > 0 && (
        <Alert
          color="brass"
          variant="light"
          title={
            open === 1
              ? "One entry cannot be sent as it stands."
              : `${numberText(open)} entries cannot be sent as they stand.`
          }
        >
          <Group gap="sm">
            <span>
              {open === 1
                ? "It stays here until it is mended; the others need not wait for it."
                : "They stay here until they are mended; the others need not wait for them."}
            </span>
            <Link
              to="/w/$workspace/invite/lists/$id"
              params={{ workspace, id: batch.id }}
              search={{ verdict: "open" }}
            >
              Show only those
            </Link>
          </Group>
        </Alert>
      )}
      {(batch.counts.sent ?? 0) > 0 && (
        <Link to="/w/$workspace/invite" params={{ workspace }} search={{ batch: batch.id }}>
          See the {numberText(batch.counts.sent ?? 0)} invitations of this list
        </Link>
      )}
    </Stack>
  );
}

function Chip(props: {
  id: string;
  workspace: string;
  current?: string;
  verdict?: string;
  name: string;
  count: number;
}) {
  return (
    <Link
      className={props.current === props.verdict ? "state-chip current" : "state-chip"}
      to="/w/$workspace/invite/lists/$id"
      params={{ workspace: props.workspace, id: props.id }}
      search={{ verdict: props.verdict }}
      activeOptions={{ exact: true, explicitUndefined: true }}
    >
      <strong>{numberText(props.count)}</strong>{" "}
      {props.verdict ? <StateWord state={props.name} /> : props.name}
    </Link>
  );
}

function Entry(props: { entry: BatchEntry; workspace: string; batch: string; canMend: boolean }) {
  const { entry, workspace } = props;
  const related = entry.problem?.related;
  return (
    <Table.Tr>
      <Table.Td ta="right">{entry.number}</Table.Td>
      <Table.Td>
        {entry.invitationId ? (
          <Link to="/w/$workspace/invite/$id" params={{ workspace, id: entry.invitationId }}>
            {entry.name || entry.address}
          </Link>
        ) : (
          entry.name || entry.address
        )}
        {entry.name && <div className="soft">{entry.address}</div>}
      </Table.Td>
      <Table.Td>
        <StateWord state={entry.state ?? entry.verdict} />
      </Table.Td>
      <Table.Td>
        {entry.problem && (
          <div>
            {entry.problem.title} <span className="soft">{entry.problem.detail}</span>
          </div>
        )}
        {entry.notes.map((note) => (
          <div key={note.code}>
            {note.sentence} <ToClaims code={note.code} workspace={workspace} />
          </div>
        ))}
        {related && entry.verdict === "member" && (
          <Link to="/w/$workspace/people/$id" params={{ workspace, id: related }}>
            Open their page
          </Link>
        )}
        {related && entry.verdict === "invited" && (
          <Link to="/w/$workspace/invite/$id" params={{ workspace, id: related }}>
            Open that invitation to resend it
          </Link>
        )}
        {props.canMend && (entry.verdict === "wrong" || entry.verdict === "blocked") && (
          <MendForm entry={entry} workspace={workspace} batch={props.batch} />
        )}
      </Table.Td>
    </Table.Tr>
  );
}
