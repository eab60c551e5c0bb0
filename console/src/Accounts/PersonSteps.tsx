import { Button, Checkbox, Menu, Select, TextInput } from "@mantine/core";
import { useState } from "react";
import { api, type Person, Refused, take } from "../api";
import { DayField } from "../ui/DayField";
import { FormDialog } from "../ui/FormDialog";
import { OrganisationField } from "../ui/OrganisationField";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/people/steps";
type Verb = "pause" | "resume" | "sign-out" | "extend" | "kind" | "grant" | "take";

const names: Record<Verb, string> = {
  pause: "Pause",
  resume: "Let in again",
  "sign-out": "Sign out everywhere",
  extend: "Stay longer",
  kind: "Change the kind",
  grant: "Give a role",
  take: "Take a role",
};

/** What can be done with one person or with many at once; what it changes is shown before. */
export function PersonSteps({ people, verbs: all }: { people: Person[]; verbs: Verb[] }) {
  const [verb, setVerb] = useState<Verb>();
  const { may } = useWorkspace();
  const verbs = all.filter((one) => may(one === "grant" || one === "take" ? "access" : "people"));
  return (
    <>
      <Menu>
        <Menu.Target>
          <Button variant="default">
            {!verbs.includes("kind")
              ? "Roles …"
              : verbs.includes("grant")
                ? "Sign-in, stay, kind, roles …"
                : "Sign-in, stay, kind …"}
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          {verbs.map((one) => (
            <Menu.Item key={one} onClick={() => setVerb(one)}>
              {names[one]} …
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
      {verb && <VerbDialog people={people} verb={verb} onClose={() => setVerb(undefined)} />}
    </>
  );
}

function VerbDialog({ people, verb, onClose }: { people: Person[]; verb: Verb; onClose: () => void }) {
  const { workspace, view } = useWorkspace();
  const who = people.length === 1 ? people[0]?.name : `${people.length} people`;
  const initial = { kind: "guest", role: "view", reason: "", until: "" };
  const call = (values: typeof initial, dryRun: boolean) =>
    take(
      api.POST(path, {
        params: { path: { workspace }, query: { dryRun } },
        body: {
          step: verb,
          people: people.map((one) => one.id),
          versions: people.map((one) => one.version),
          kind: verb === "kind" ? values.kind : null,
          role: verb === "grant" || verb === "take" ? values.role : null,
          reason: values.reason || null,
          details: null,
          resource: null,
          until: verb === "extend" ? values.until || null : null,
        },
      }),
    );
  return (
    <FormDialog
      isStep
      title={`${names[verb]}: ${who}`}
      initial={initial}
      plan={(values) => (verb === "extend" && !values.until ? undefined : () => call(values, true))}
      word={(_, plan) =>
        `${names[verb]}: ${plan.data ? `${plan.data.done.length} of ${people.length}` : who}`
      }
      isReady={(_, plan) => !!plan.data?.done.length}
      save={(values) => call(values, false)}
      left={(answer) => answer.refused.map((one) => one.problem)}
      onClose={onClose}
    >
      {(form, plan) => (
        <>
          {verb === "kind" && (
            <Select
              label="Kind"
              data={["staff", "guest", "partner", "client"]}
              allowDeselect={false}
              {...form.getInputProps("kind")}
            />
          )}
          {(verb === "grant" || verb === "take") && (
            <Select
              label="Role, in the whole workspace"
              data={(view?.roles ?? []).map((one) => one.name)}
              allowDeselect={false}
              {...form.getInputProps("role")}
            />
          )}
          {verb === "extend" && (
            <DayField label="Until, that day included" {...form.getInputProps("until")} />
          )}
          {(verb === "pause" || verb === "extend") && (
            <TextInput label="Reason, for the record" {...form.getInputProps("reason")} />
          )}
          {plan.data?.refused.map((one) => (
            <Refusal key={one.person} of={new Refused(one.problem)} isForetold />
          ))}
        </>
      )}
    </FormDialog>
  );
}

/** Changes what is known of one person, or of many at once; what is left empty stays. */
export function DetailsDialog({ people, onClose }: { people: Person[]; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const one = people.length === 1 ? people[0] : undefined;
  const initial = {
    name: one?.name ?? "",
    organisation: one?.organisation ?? "",
    title: one?.title ?? "",
    department: one?.department ?? "",
    manager: one?.manager ?? "",
    country: one?.country ?? "",
    host: "",
    note: one?.note ?? "",
    leads: one?.leads ?? false,
    organisationAsWritten: false,
  };
  const fields = {
    ...(one && { name: "Name" }),
    title: "Job title",
    department: "Department",
    manager: "Manager",
    country: "Country",
    host: "Host: the address of a member of the staff",
    note: "Note to tell them apart, not shown to them",
  };
  return (
    <FormDialog
      title={`Change the details of ${one?.name ?? `${people.length} people`}`}
      word="Change"
      initial={initial}
      save={(values) =>
        take(
          api.POST(path, {
            params: { path: { workspace } },
            body: {
              step: "change",
              people: people.map((person) => person.id),
              versions: people.map((person) => person.version),
              details: Object.fromEntries(
                Object.entries(values).filter(
                  ([field, now]) => now !== initial[field as keyof typeof initial],
                ),
              ),
            },
          }),
        )
      }
      left={(answer) => answer.refused.map((refused) => refused.problem)}
      onClose={onClose}
    >
      {(form) => (
        <>
          {!one && <p className="soft">What is left empty stays as it is for each.</p>}
          <OrganisationField
            value={form.values.organisation}
            onChange={(organisation) => form.setFieldValue("organisation", organisation)}
            asWritten={form.values.organisationAsWritten}
            onAsWritten={(asWritten) => form.setFieldValue("organisationAsWritten", asWritten)}
            error={form.errors.organisation}
          />
          {Object.entries(fields).map(([field, label]) => (
            <TextInput key={field} label={label} {...form.getInputProps(field)} />
          ))}
          {one?.organisationId && (
            <Checkbox
              label="Leads: may invite colleagues of their organisation"
              {...form.getInputProps("leads", { type: "checkbox" })}
            />
          )}
        </>
      )}
    </FormDialog>
  );
}
