import { Button, Group, Select, Stack, Text, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import {
  type AccountThere,
  api,
  inWorkspace,
  type Lane,
  type MappingLine,
  type PushPreview,
  take,
} from "../api";
import { FormDialog, type Plan } from "../ui/FormDialog";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { ShowMore } from "../ui/ShowMore";
import { SimpleTable } from "../ui/SimpleTable";
import { StateWord } from "../ui/StateWord";
import { usePages } from "../ui/usePages";
import { instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccountsNav } from "./AccountsNav";
import { heldText } from "./connectionWords";
import { DeliverySheet } from "./DeliverySheet";
import { LeftOverSheet } from "./LeftOverSheet";

const path = "/api/v1/workspaces/{workspace}/connections/{connection}";
const beat = 3_000;
const shown = 12;

type Dialog = "add" | { remove: MappingLine };

/** What is carried out to one connected system: who has what there, what waits, and why. */
export function CarriedPage() {
  const { workspace } = useWorkspace();
  const { id = "" } = useParams({ strict: false });
  const queries = useQueryClient();
  const [dialog, setDialog] = useState<Dialog>();
  const [state, setState] = useState("");
  const params = { path: { workspace, connection: id } };
  const lane = useQuery({
    queryKey: [workspace, "carried", id],
    queryFn: () => take(api.GET(`${path}/status`, { params })),
    refetchInterval: beat,
  });
  const accounts = usePages(
    [workspace, "carried", id, "accounts", state],
    (cursor) =>
      take(
        api.GET(`${path}/accounts`, {
          params: { ...params, query: { cursor, state: state || undefined } },
        }),
      ),
    { refetchInterval: beat },
  );
  const hold = useMutation({
    mutationFn: (isPaused: boolean) =>
      take(api.POST(isPaused ? `${path}/pause` : `${path}/resume`, { params })),
    onSuccess: () => queries.invalidateQueries({ queryKey: [workspace, "carried", id] }),
  });
  const at = lane.data;
  return (
    <Page
      title={at ? `Access in ${at.name}` : "Access there"}
      actions={
        at &&
        at.state !== "nothing-mapped" && (
          <Button
            variant="default"
            loading={hold.isPending}
            onClick={() => hold.mutate(at.state !== "paused")}
          >
            {at.state === "paused" ? "Go on" : "Have it wait"}
          </Button>
        )
      }
    >
      <AccountsNav />
      <Refusal of={lane.error ?? hold.error ?? accounts.error} />
      {at && <Standing lane={at} onStuck={() => setState("stuck")} />}
      {at && at.state !== "nothing-mapped" && at.type !== "webhook" && (
        <LeftOverSheet lane={at} connection={id} />
      )}
      {at && (
        <section className="sheet" aria-labelledby="mapping">
          <Group justify="space-between">
            <h2 className="section-title" id="mapping">
              Who has what there
            </h2>
            <Button size="xs" onClick={() => setDialog("add")}>
              Add a line
            </Button>
          </Group>
          <SimpleTable
            isBare
            rows={at.mapping}
            keyOf={(line) => line.id}
            nothing="Nobody has anything there by what they are here. Add a line: it is shown first what follows from it."
            columns={[
              { head: "Whoever", cell: whoever },
              { head: "Has there", cell: (line) => hasThere(line.to) },
              {
                head: "Take away",
                isHeadHidden: true,
                cell: (line) => (
                  <Button size="compact-sm" variant="default" onClick={() => setDialog({ remove: line })}>
                    Take away …
                  </Button>
                ),
              },
            ]}
          />
        </section>
      )}
      {at && at.state !== "nothing-mapped" && (
        <section className="sheet" aria-labelledby="accounts">
          <Group justify="space-between" align="end">
            <h2 className="section-title" id="accounts">
              Accounts there
            </h2>
            <Select
              aria-label="In which state"
              data={[
                { value: "", label: "All" },
                { value: "due", label: "Due" },
                { value: "stuck", label: "Stuck" },
                { value: "confirmed", label: "Confirmed" },
                { value: "told", label: "Told" },
                { value: "by hand", label: "Confirmed by hand" },
              ]}
              allowDeselect={false}
              value={state}
              onChange={(value) => setState(value ?? "")}
            />
          </Group>
          <div className="table-holder">
            <Accounts rows={accounts.items} workspace={workspace} />
          </div>
          <ShowMore of={accounts} />
        </section>
      )}
      {at?.type === "webhook" && <DeliverySheet connection={id} />}
      {dialog === "add" && <AddLine connection={id} onClose={() => setDialog(undefined)} />}
      {dialog && dialog !== "add" && (
        <RemoveLine connection={id} line={dialog.remove} onClose={() => setDialog(undefined)} />
      )}
    </Page>
  );
}

function Standing({ lane, onStuck }: { lane: Lane; onStuck: () => void }) {
  const words: Record<string, string> = {
    "nothing-mapped": "Nothing is carried out to it as yet.",
    resting: "It holds what it ought to.",
    working: "At work.",
    paused: "Told to wait. Whoever leaves still loses access here at once.",
    away: "It does not answer; everything that is due waits, and is done by itself once it is back.",
  };
  return (
    <section className="sheet" aria-label="How it stands">
      <Text>{words[lane.state] ?? lane.state}</Text>
      {lane.answer && <Text c="var(--aboard-bad)">{lane.answer}</Text>}
      {lane.stuck > 0 && (
        <Group gap="sm">
          <Text>
            {lane.stuck === 1 ? "1 account is stuck" : `${lane.stuck} accounts are stuck`}: tried several
            times in vain, and tried on.
          </Text>
          <Button size="compact-sm" variant="default" onClick={onStuck}>
            Show what is stuck
          </Button>
        </Group>
      )}
      <Text size="sm" className="soft">
        {lane.on} on, {lane.off} off, as they were last read ·{" "}
        {lane.waiting > 0
          ? `${lane.waiting} due, the oldest since ${lane.since ? instantText(lane.since) : "now"}${lane.stuck > 0 ? `, ${lane.stuck} stuck` : ""}`
          : "nothing due"}
        {lane.downSince && ` · away since ${instantText(lane.downSince)}`}
        {lane.nextTry && ` · next try ${instantText(lane.nextTry)}`} ·{" "}
        {lane.confirmedAt ? `last confirmed ${instantText(lane.confirmedAt)}` : "nothing confirmed as yet"}
      </Text>
    </section>
  );
}

function Accounts({ rows, workspace }: { rows: AccountThere[] | undefined; workspace: string }) {
  return (
    <SimpleTable
      isBare
      rows={rows}
      keyOf={(account) => account.memberId}
      nothing="None."
      columns={[
        {
          head: "Who",
          cell: (account) => (
            <>
              <Link to="/w/$workspace/people/$id" params={{ workspace, id: account.memberId }}>
                {account.name}
              </Link>
              <div className="soft">{account.address}</div>
            </>
          ),
        },
        { head: "Is to be", cell: (account) => heldText(account.wanted, account.groups) },
        { head: "State", cell: (account) => <StateWord state={account.state} /> },
        {
          head: "What was found",
          cell: (account) => (
            <>
              {account.answer || "–"}
              {account.since && <div className="soft">due since {instantText(account.since)}</div>}
            </>
          ),
        },
      ]}
    />
  );
}

function AddLine({ connection, onClose }: { connection: string; onClose: () => void }) {
  const { workspace, view } = useWorkspace();
  const params = { path: { workspace, connection } };
  const resources = useQuery({
    queryKey: [workspace, "resources", "names"],
    queryFn: () =>
      take(
        api.GET("/api/v1/workspaces/{workspace}/resources", {
          ...inWorkspace(workspace),
        }),
      ),
  });
  const groups = useQuery({
    queryKey: [workspace, "groups", "names"],
    queryFn: () =>
      take(
        api.GET("/api/v1/workspaces/{workspace}/groups", {
          ...inWorkspace(workspace),
        }),
      ),
  });
  const initial = { of: "role", which: "", level: "view", to: "accounts", group: "" };
  const bodyOf = (values: typeof initial) => ({
    to: values.to === "accounts" ? "accounts" : `group:${values.group}`,
    role: values.of === "role" ? values.which : null,
    group: values.of === "group" ? values.which : null,
    resource: values.of === "resource" ? values.which : null,
    level: values.of === "resource" ? values.level : null,
  });
  const names: Record<string, string[]> = {
    role: (view?.roles ?? []).map((role) => role.name),
    group: (groups.data?.items ?? []).map((group) => group.name),
    resource: (resources.data?.items ?? []).map((resource) => resource.name),
  };
  return (
    <FormDialog<typeof initial, unknown, PushPreview>
      isStep
      size="lg"
      title="Who has what there"
      word={(_, plan) => (plan.data?.total ? `Carry it out: ${accounts(plan.data.total)}` : "Carry it out")}
      initial={initial}
      plan={(values) =>
        values.which && (values.to === "accounts" || values.group.trim())
          ? () => take(api.POST(`${path}/preview`, { params, body: { with: bodyOf(values), without: null } }))
          : undefined
      }
      isReady={(_, plan) => plan.data !== undefined}
      save={(values) => take(api.POST(`${path}/mapping`, { params, body: bodyOf(values) }))}
      said="It is carried out from now on."
      onClose={onClose}
    >
      {(form, plan) => (
        <>
          <Select
            label="Whoever"
            allowDeselect={false}
            data={[
              { value: "role", label: "has the role" },
              { value: "group", label: "is in the group" },
              { value: "resource", label: "may do something at the resource" },
            ]}
            {...form.getInputProps("of")}
            onChange={(of) => form.setValues({ of: of ?? "role", which: "" })}
          />
          <Select
            label="Which"
            searchable
            data={names[form.values.of] ?? []}
            {...form.getInputProps("which")}
          />
          {form.values.of === "resource" && (
            <Select
              label="At least"
              allowDeselect={false}
              data={["view", "contribute", "edit", "manage"]}
              {...form.getInputProps("level")}
            />
          )}
          <Select
            label="Has there"
            allowDeselect={false}
            data={[
              { value: "accounts", label: "an account, and nothing more" },
              { value: "group", label: "an account, in a group of theirs" },
            ]}
            {...form.getInputProps("to")}
          />
          {form.values.to === "group" && (
            <TextInput label="Name of the group there" {...form.getInputProps("group")} />
          )}
          <Changes of={plan} />
        </>
      )}
    </FormDialog>
  );
}

function RemoveLine(props: { connection: string; line: MappingLine; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const params = { path: { workspace, connection: props.connection } };
  return (
    <FormDialog<object, unknown, PushPreview>
      isStep
      isAlarming
      size="lg"
      title="Take a line away"
      word="Take it away"
      initial={{}}
      plan={() => () =>
        take(api.POST(`${path}/preview`, { params, body: { with: null, without: props.line.id } }))
      }
      isReady={(_, plan) => plan.data !== undefined}
      save={() =>
        take(
          api.DELETE(`${path}/mapping/{line}`, {
            params: { path: { workspace, connection: props.connection, line: props.line.id } },
          }),
        )
      }
      said="It is carried out from now on."
      onClose={props.onClose}
    >
      {(_, plan) => (
        <>
          <Text size="sm">
            Whoever {whoever(props.line)} has {hasThere(props.line.to)} there; that is taken away from those
            who have it by this line alone.
          </Text>
          <Changes of={plan} />
        </>
      )}
    </FormDialog>
  );
}

/** What would be done there at this moment. */
function Changes({ of }: { of: Plan<PushPreview> }) {
  if (of.fault) return <Refusal of={of.fault} />;
  const plan = of.data;
  if (!plan)
    return <Text className="soft">What follows from it there is shown here, before anything is done.</Text>;
  return (
    <Stack gap={4}>
      <Text fw={650}>
        {plan.total === 0
          ? "Nothing would be done there."
          : `What would be done there: ${accounts(plan.total)}`}
      </Text>
      {plan.changes.slice(0, shown).map((change) => (
        <Text size="sm" key={change.memberId}>
          {change.name}: {change.sentence}
          {change.isTakenOver && " (an account that is there already is taken for theirs)"}
        </Text>
      ))}
      {plan.total > shown && (
        <Text size="sm" className="soft">
          and {plan.total - shown} more
        </Text>
      )}
      {plan.missingGroups.map((group) => (
        <Text size="sm" c="var(--aboard-bad)" key={group}>
          It has no group "{group}": whoever is to be in it waits until there is one.
        </Text>
      ))}
    </Stack>
  );
}

const accounts = (count: number) => (count === 1 ? "1 account" : `${count} accounts`);

function whoever(line: MappingLine) {
  const name = line.subject || "what is not here any more";
  if (line.of === "role") return `has the role ${name}`;
  return line.of === "group" ? `is in the group ${name}` : `may ${line.level} ${name}`;
}

const hasThere = (to: string) =>
  to === "accounts" ? "an account" : `an account in ${to.slice("group:".length)}`;
