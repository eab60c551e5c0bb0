import { Button, Checkbox, Group, Menu, Modal, Select, Stack, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Difference } from "../Access/Difference";
import { api, type Person, Refused, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/people/steps";
type Verb = "pause" | "resume" | "sign-out" | "kind" | "grant" | "take";

const names: Record<Verb, string> = {
  pause: "Pause",
  resume: "Let in again",
  "sign-out": "Sign out everywhere",
  kind: "Change the kind",
  grant: "Give a role",
  take: "Take a role",
};

/** What can be done with one person or with many at once; what it changes is shown before. */
export function PersonSteps({ people, verbs }: { people: Person[]; verbs: Verb[] }) {
  const [verb, setVerb] = useState<Verb>();
  return (
    <>
      <Menu>
        <Menu.Target>
          <Button variant="default">Do something …</Button>
        </Menu.Target>
        <Menu.Dropdown>
          {verbs.map((one) => (
            <Menu.Item key={one} onClick={() => setVerb(one)}>
              {names[one]} …
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
      {verb && <StepDialog people={people} verb={verb} onClose={() => setVerb(undefined)} />}
    </>
  );
}

function StepDialog({ people, verb, onClose }: { people: Person[]; verb: Verb; onClose: () => void }) {
  const { workspace, view } = useWorkspace();
  const queries = useQueryClient();
  const [kind, setKind] = useState("guest");
  const [role, setRole] = useState("view");
  const [reason, setReason] = useState("");
  const who = people.length === 1 ? people[0]?.name : `${people.length} people`;
  const body = {
    step: verb,
    people: people.map((one) => one.id),
    versions: people.map((one) => one.version),
    kind: verb === "kind" ? kind : null,
    role: verb === "grant" || verb === "take" ? role : null,
    reason: reason || null,
    details: null,
    resource: null,
    until: null,
  };
  const call = (dryRun: boolean) =>
    take(api.POST(path, { params: { path: { workspace }, query: { dryRun } }, body }));
  const plan = useQuery({
    queryKey: [workspace, "step", body],
    queryFn: () => call(true),
    retry: false,
  });
  const run = useMutation({
    mutationFn: () => call(false),
    onSuccess: async (answer) => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      if (answer.refused.length === 0) onClose();
    },
  });
  const answer = run.data ?? plan.data;
  return (
    <Modal
      opened
      onClose={onClose}
      size="lg"
      title={
        <strong>
          {names[verb]}: {who}
        </strong>
      }
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack>
        {verb === "kind" && (
          <Select
            label="Kind"
            data={["staff", "guest", "partner", "client"]}
            value={kind}
            onChange={(one) => setKind(one ?? "guest")}
            allowDeselect={false}
          />
        )}
        {(verb === "grant" || verb === "take") && (
          <Select
            label="Role, in the whole workspace"
            data={(view?.roles ?? []).map((one) => one.name)}
            value={role}
            onChange={(one) => setRole(one ?? "view")}
            allowDeselect={false}
          />
        )}
        {verb === "pause" && (
          <TextInput
            label="Reason, for the record"
            value={reason}
            onChange={(event) => setReason(event.currentTarget.value)}
          />
        )}
        {answer && <Difference of={answer.difference} workspace={workspace} />}
        {answer?.refused.map((one) => (
          <Refusal key={one.person} of={new Refused(one.problem)} />
        ))}
        <Refusal of={run.error ?? plan.error} />
        <Group justify="end">
          <Button variant="default" onClick={onClose}>
            {run.data ? "Close" : "Keep as it is"}
          </Button>
          {!run.data && (
            <Button
              disabled={!plan.data || plan.data.done.length === 0}
              loading={run.isPending}
              onClick={() => run.mutate()}
            >
              {names[verb]}: {plan.data ? `${plan.data.done.length} of ${people.length}` : who}
            </Button>
          )}
        </Group>
      </Stack>
    </Modal>
  );
}

/** Changes what is known of one person, or of many at once; what is left empty stays. */
export function DetailsDialog({ people, onClose }: { people: Person[]; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const one = people.length === 1 ? people[0] : undefined;
  const [form, setForm] = useState<Record<string, string>>(
    one
      ? {
          name: one.name,
          organisation: one.organisation ?? "",
          title: one.title ?? "",
          department: one.department ?? "",
          manager: one.manager ?? "",
          country: one.country ?? "",
          note: one.note ?? "",
        }
      : {},
  );
  const [leads, setLeads] = useState(one?.leads ?? false);
  const fields: [string, string][] = [
    ...(one ? ([["name", "Name"]] as [string, string][]) : []),
    ["organisation", "Organisation"],
    ["title", "Job title"],
    ["department", "Department"],
    ["manager", "Manager"],
    ["country", "Country"],
    ["host", "Host: the address of a member of the staff"],
    ["note", "Note to tell them apart, not shown to them"],
  ];
  const save = useMutation({
    mutationFn: () => {
      const details = Object.fromEntries(
        Object.entries(form).filter(([field, text]) =>
          one ? text !== (one[field as keyof Person] ?? "") : text !== "",
        ),
      );
      return take(
        api.POST(path, {
          params: { path: { workspace } },
          body: {
            step: "change",
            people: people.map((person) => person.id),
            versions: people.map((person) => person.version),
            details: { ...details, ...(one && leads !== one.leads ? { leads } : {}) },
          },
        }),
      );
    },
    onSuccess: async (answer) => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      if (answer.refused.length === 0) onClose();
    },
  });
  return (
    <Modal
      opened
      onClose={onClose}
      title={<strong>Change the details of {one?.name ?? `${people.length} people`}</strong>}
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <Stack>
          {!one && <p className="soft">What is left empty stays as it is for each.</p>}
          {fields.map(([field, label]) => (
            <TextInput
              key={field}
              label={label}
              value={form[field] ?? ""}
              onChange={(event) => {
                const text = event.currentTarget.value;
                setForm((before) => ({ ...before, [field]: text }));
              }}
            />
          ))}
          {one?.organisationId && (
            <Checkbox
              label="Leads: may invite colleagues of their organisation"
              checked={leads}
              onChange={(event) => setLeads(event.currentTarget.checked)}
            />
          )}
          {save.data?.refused.map((refused) => (
            <Refusal key={refused.person} of={new Refused(refused.problem)} />
          ))}
          <Refusal of={save.error} />
          <Button type="submit" loading={save.isPending}>
            Change
          </Button>
        </Stack>
      </form>
    </Modal>
  );
}
