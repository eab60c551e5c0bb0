import { Button, Checkbox, Group, Select } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { api, inWorkspace, take } from "../api";
import { DayField } from "../ui/DayField";
import { FormDialog, type Plan } from "../ui/FormDialog";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { PersonField } from "./PersonField";
import { RoleSelect } from "./RoleSelect";

const path = "/api/v1/workspaces/{workspace}/grants";

/** To whom something is given; a person may still have to be named. */
export type Holder = { person?: string; group?: string; organisation?: string };

/**
 * Gives a role: what it changes is shown before it is done. Whoever is named by an address that nobody here has is
 * invited with that role instead.
 */
export function GiveDialog(props: { title: string; holder: Holder; resource?: string; onClose: () => void }) {
  const { workspace, today } = useWorkspace();
  const { holder } = props;
  const isNamed = !!(holder.person ?? holder.group ?? holder.organisation);
  const initial = {
    role: "view",
    from: "",
    until: "",
    resource: props.resource ?? "",
    tell: false,
    person: "",
    kind: "guest",
    isDraft: false,
  };
  type Values = typeof initial;
  const resources = useQuery({
    queryKey: [workspace, "resources"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/resources", inWorkspace(workspace))),
    enabled: !props.resource,
  });
  const given = (values: Values) => ({
    role: values.role,
    resource: values.resource || null,
    from: values.from || null,
    until: values.until || null,
  });
  const give = (values: Values, dryRun: boolean) =>
    take(
      api.POST(path, {
        params: { path: { workspace }, query: { dryRun } },
        body: {
          ...given(values),
          person: holder.person ?? (isNamed ? null : values.person),
          group: holder.group ?? null,
          organisation: holder.organisation ?? null,
          tell: values.tell,
        },
      }),
    );
  const invite = (values: Values) =>
    take(
      api.POST("/api/v1/workspaces/{workspace}/invitations", {
        ...inWorkspace(workspace),
        body: { ...given(values), address: values.person, kind: values.kind, draft: values.isDraft },
      }),
    );
  const isNew = (plan: Plan<object>) => plan.fault?.problem.code === "person.not-found";
  return (
    <FormDialog
      isStep
      title={props.title}
      word={(values, plan) => (isNew(plan) ? `Invite ${values.person}` : `Give the role ${values.role}`)}
      initial={initial}
      plan={(values) => (isNamed || values.person.includes("@") ? () => give(values, true) : undefined)}
      isReady={(_, plan) => plan.data !== undefined || isNew(plan)}
      isAnswered={isNew}
      save={async (values, plan): Promise<unknown> => (isNew(plan) ? invite(values) : give(values, false))}
      beside={(form, plan) =>
        isNew(plan) && (
          <Button type="submit" variant="default" onClick={() => form.setFieldValue("isDraft", true)}>
            Keep as a draft
          </Button>
        )
      }
      onClose={props.onClose}
    >
      {(form, plan) => (
        <>
          {!isNamed && <PersonField label="Name or address" {...form.getInputProps("person")} />}
          <RoleSelect label="Role" {...form.getInputProps("role")} atResource={!!form.values.resource} />
          {!props.resource && (
            <Select
              label="Where"
              placeholder="In the whole workspace"
              clearable
              searchable
              data={(resources.data?.items ?? []).map((one) => one.name)}
              value={form.values.resource || null}
              onChange={(name) => form.setFieldValue("resource", name ?? "")}
            />
          )}
          <Group grow align="start">
            <DayField
              label="First day"
              description="Empty means at once."
              min={today}
              {...form.getInputProps("from")}
            />
            <DayField
              label="Last day"
              description="Empty means as long as they are here."
              min={today}
              {...form.getInputProps("until")}
            />
          </Group>
          {isNew(plan) ? (
            <>
              <p>
                Nobody here has the address <strong>{form.values.person}</strong>. They can be invited with
                just this role.
              </p>
              <Select
                label="Kind"
                data={["staff", "guest", "partner", "client"]}
                allowDeselect={false}
                {...form.getInputProps("kind")}
              />
            </>
          ) : (
            <Checkbox
              label="Tell those whose access changes by mail"
              {...form.getInputProps("tell", { type: "checkbox" })}
            />
          )}
        </>
      )}
    </FormDialog>
  );
}
