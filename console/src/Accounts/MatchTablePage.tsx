import { Alert, Button, FileButton, Group, Kbd, Select, Text } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, type Connection, type RecordDecision, Refused, take, upload } from "../api";
import { CsvLink } from "../ui/CsvLink";
import { FormDialog } from "../ui/FormDialog";
import { ListSearchBox } from "../ui/ListSearchBox";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { usePages } from "../ui/usePages";
import { instantText, numberText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccountsNav } from "./AccountsNav";
import { placeText } from "./ConnectionsPage";
import { MatchList } from "./MatchList";

const path = "/api/v1/workspaces/{workspace}/connections/{connection}";

const verdicts = [
  ["", "all"],
  ["to-decide", "to decide"],
  ["conflicting", "conflicting"],
  ["likely", "likely"],
  ["new", "new"],
  ["same", "the same person"],
  ["leave-out", "left out"],
  ["refused", "refused"],
  ["gone", "gone there"],
] as const;

/** Who of an outside system is who here: looked at, decided singly and in bulk, done when that is said. */
export function MatchTablePage() {
  const { workspace } = useWorkspace();
  const { id } = useParams({ from: "/w/$workspace/accounts/connections/$id" });
  const [verdict, setVerdict] = useState("");
  const [search, setSearch] = useState("");
  const [chosen, setChosen] = useState<string[]>([]);
  const [asked, setAsked] = useState<"run" | "believe">();
  const queries = useQueryClient();
  const place = { path: { workspace, connection: id } };
  const connection = useQuery({
    queryKey: [workspace, "connections", id],
    queryFn: () => take(api.GET(path, { params: place })),
    refetchInterval: (query) => (query.state.data?.state === "resting" ? false : 700),
  });
  const found = connection.data;
  const isAtRest = found?.state === "resting";
  const filter = { verdict: verdict || undefined, search: search || undefined };
  // What was read anew, or done, is another table: its list begins anew.
  // A single decision leaves the list where it is; another reading, or what was done, begins it anew.
  const edition = [found?.state, found?.lastReadAt, found?.counts.done, found?.counts.refused];
  const list = usePages([workspace, "connections", id, "records", filter, edition], (cursor) =>
    take(api.GET(`${path}/records`, { params: { ...place, query: { ...filter, cursor, limit: 100 } } })),
  );
  const renew = () => queries.invalidateQueries({ queryKey: [workspace] });
  const read = useMutation({
    mutationFn: async (file?: File) => {
      if (file) await upload(`/api/v1/workspaces/${workspace}/connections/${id}/file`, { file });
      return take(api.POST(`${path}/read`, { params: place, body: { believe: false } }));
    },
    onSuccess: renew,
  });
  const decide = useMutation({
    mutationFn: (wish: { records?: RecordDecision[]; decision?: string }) =>
      take(
        api.POST(`${path}/decisions`, {
          params: place,
          body: wish.records
            ? { records: wish.records, decision: null, verdict: null, search: null }
            : {
                records: null,
                decision: wish.decision ?? "",
                verdict: verdict || null,
                search: search || null,
              },
        }),
      ),
    onSuccess: async () => {
      setChosen([]);
      await renew();
    },
  });
  const narrow = (change: () => void) => {
    change();
    setChosen([]);
    decide.reset();
  };
  const refused = decide.data?.refused[0];
  return (
    <Page
      title={found?.name ?? "Connection"}
      actions={
        <>
          <CsvLink
            workspace={workspace}
            list={`connections/${id}/records?format=csv&verdict=${verdict}&search=${encodeURIComponent(search)}`}
          />
          {found?.type === "file" && (
            <FileButton onChange={(file) => file && read.mutate(file)} accept=".ldif,.csv,.xlsx,.txt">
              {(props) => (
                <Button {...props} variant="default" disabled={!isAtRest}>
                  New file
                </Button>
              )}
            </FileButton>
          )}
          <Button variant="default" disabled={!isAtRest} onClick={() => read.mutate(undefined)}>
            Read again
          </Button>
          <Button disabled={!isAtRest || dueOf(found) === 0} onClick={() => setAsked("run")}>
            Do what is decided
          </Button>
        </>
      }
    >
      <AccountsNav />
      <Refusal of={connection.error ?? read.error} />
      {found && <Standing of={found} onBelieve={() => setAsked("believe")} />}
      <Group align="end">
        <Select
          label="Show"
          data={verdicts.map(([value, label]) => ({ value, label: `${label}${countText(found, value)}` }))}
          value={verdict}
          onChange={(value) => narrow(() => setVerdict(value ?? ""))}
          allowDeselect={false}
          w={220}
        />
        <ListSearchBox onSearch={(words) => narrow(() => setSearch(words ?? ""))} />
        <Text size="sm" className="soft" visibleFrom="md">
          <Kbd>↓</Kbd> <Kbd>↑</Kbd> from one to the next, <Kbd>J</Kbd> joins, <Kbd>B</Kbd> brings in,{" "}
          <Kbd>L</Kbd> leaves out, <Kbd>O</Kbd> leaves open
        </Text>
      </Group>
      {isAtRest && (list.items?.length ?? 0) > 0 && (
        <Bulk
          isGone={verdict === "gone"}
          chosen={chosen.length}
          isWhole={chosen.length === 0}
          isBusy={decide.isPending}
          onDecide={(decision) =>
            decide.mutate(
              chosen.length > 0
                ? { records: chosen.map((key) => ({ key, decision, person: null })) }
                : { decision },
            )
          }
        />
      )}
      <div role="status">
        {decide.data && (
          <Text size="sm">
            {numberText(decide.data.decided)} decided
            {decide.data.refused.length > 0 && `, ${numberText(decide.data.refused.length)} not`}.
          </Text>
        )}
      </div>
      {refused && <Refusal of={new Refused(refused.problem)} />}
      <Refusal of={decide.error ?? list.error} />
      {isAtRest && list.items?.length === 0 && (
        <p className="sheet">
          {found?.lastReadAt
            ? "There is none like that."
            : "It was not read as yet: read it to see who is who."}
        </p>
      )}
      {list.items && list.items.length > 0 && (
        <MatchList
          items={list.items}
          workspace={workspace}
          chosen={chosen}
          isStill={!isAtRest || decide.isPending}
          onChoose={(key, isOn) => setChosen(isOn ? [...chosen, key] : chosen.filter((one) => one !== key))}
          onDecide={(decision) => decide.mutate({ records: [decision] })}
          onEnd={() => list.hasMore && !list.isReading && list.more()}
        />
      )}
      {asked === "run" && found && (
        <FormDialog
          title={`Do what is decided of ${found.name}`}
          word="Do it"
          initial={{}}
          save={() => take(api.POST(`${path}/run`, { params: place }))}
          onClose={() => setAsked(undefined)}
        >
          {() => (
            <ul className="follows">
              <li>
                {numberText(found.counts["to-join"] ?? 0)} profiles are joined with people who are here.
              </li>
              <li>
                {numberText(found.counts["to-bring-in"] ?? 0)} people{" "}
                {found.newcomers === "add" ? "get an account of the workspace" : "are invited by mail"}.
              </li>
              <li>{numberText(found.counts["to-decide"] ?? 0)} are left until somebody decides.</li>
              <li>Nobody is ended, paused or given less by it.</li>
            </ul>
          )}
        </FormDialog>
      )}
      {asked === "believe" && found && (
        <FormDialog
          title="Read it once more and believe it"
          word="They have left"
          isAlarming
          initial={{}}
          save={() => take(api.POST(`${path}/read`, { params: place, body: { believe: true } }))}
          onClose={() => setAsked(undefined)}
        >
          {() => (
            <Text size="sm">
              Whoever is gone there then stands in the list “gone there”. Nobody is ended by it.
            </Text>
          )}
        </FormDialog>
      )}
    </Page>
  );
}

function dueOf(connection?: Connection) {
  return (connection?.counts["to-join"] ?? 0) + (connection?.counts["to-bring-in"] ?? 0);
}

function countText(connection: Connection | undefined, verdict: string) {
  const count = verdict && connection?.counts[verdict];
  return count ? ` (${numberText(count)})` : "";
}

/** Where it is, when it was read, what is being done, and what stands in the way. */
function Standing({ of, onBelieve }: { of: Connection; onBelieve: () => void }) {
  return (
    <>
      <Text className="soft" style={{ overflowWrap: "anywhere" }}>
        {placeText(of)} · {of.lastReadAt ? `last read ${instantText(of.lastReadAt)}` : "never read"} ·{" "}
        {numberText(of.counts["to-decide"] ?? 0)} to decide, {numberText(dueOf(of))} to do,{" "}
        {numberText(of.counts.done ?? 0)} done
      </Text>
      <div role="status">
        {of.state !== "resting" && (
          <Text>
            {of.state === "reading" ? "It is being read" : "What was decided is being done"}
            {of.total > 0 && `: ${numberText(of.done)} of ${numberText(of.total)}`} …
          </Text>
        )}
      </div>
      {of.problem && of.state === "resting" && (
        <Alert color="alarm" variant="light" title={of.problem.title}>
          {of.problem.detail}
          {of.problem.code === "connection.far-fewer" && (
            <Group mt="xs">
              <Button size="xs" variant="default" onClick={onBelieve}>
                They have really left
              </Button>
            </Group>
          )}
        </Alert>
      )}
    </>
  );
}

function Bulk(props: {
  isGone: boolean;
  chosen: number;
  isWhole: boolean;
  isBusy: boolean;
  onDecide: (decision: string) => void;
}) {
  const choices = props.isGone
    ? [["stays", "They stay"]]
    : [
        ["join", "Join"],
        ["bring-in", "Bring in"],
        ["leave-out", "Leave out"],
        ["", "Leave open"],
      ];
  return (
    <Group gap="xs" role="group" aria-label="Decide for several">
      <Text size="sm">{props.isWhole ? "All of these:" : `Those chosen (${props.chosen}):`}</Text>
      {choices.map(([decision, label]) => (
        <Button
          key={label}
          size="xs"
          variant="default"
          disabled={props.isBusy}
          onClick={() => props.onDecide(decision ?? "")}
        >
          {label}
        </Button>
      ))}
    </Group>
  );
}
