import { Button, Checkbox, Group, Modal, Select, Stack, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, inWorkspace, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { Difference } from "./Difference";
import { PersonField } from "./PersonField";
import { RoleSelect } from "./RoleSelect";

const path = "/api/v1/workspaces/{workspace}/grants";

/** To whom something is given; a person may still have to be named. */
export type Holder = { person?: string; group?: string; organisation?: string };

/**
 * Gives a role: what it changes is shown before it is done. Whoever is named by an address that nobody here has is
 * invited with that role instead.
 */
export function GiveDialog(props: {
  title: string;
  holder: Holder;
  resource?: string;
  opened: boolean;
  onClose: () => void;
}) {
  const { workspace, today } = useWorkspace();
  const queries = useQueryClient();
  const [role, setRole] = useState("view");
  const [from, setFrom] = useState("");
  const [until, setUntil] = useState("");
  const [at, setAt] = useState<string | null>(null);
  const [tell, setTell] = useState(false);
  const [person, setPerson] = useState(props.holder.person ?? "");
  const [kind, setKind] = useState("guest");
  const isNamed = !!(props.holder.person ?? props.holder.group ?? props.holder.organisation);
  const resource = props.resource ?? at;
  const resources = useQuery({
    queryKey: [workspace, "resources"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/resources", inWorkspace(workspace))),
    enabled: props.opened && !props.resource,
  });
  const body = {
    role,
    person: props.holder.person ?? (isNamed ? null : person),
    group: props.holder.group ?? null,
    organisation: props.holder.organisation ?? null,
    resource: resource ?? null,
    from: from || null,
    until: until || null,
    tell,
  };
  const plan = useQuery({
    queryKey: [workspace, "give", body],
    queryFn: () => take(api.POST(path, { params: { path: { workspace }, query: { dryRun: true } }, body })),
    enabled: props.opened && (isNamed || person.includes("@")),
    retry: false,
  });
  const isNew = (plan.error as { problem?: { code: string } } | null)?.problem?.code === "person.not-found";
  const done = async () => {
    await queries.invalidateQueries({ queryKey: [workspace] });
    props.onClose();
    if (!isNamed) setPerson("");
  };
  const give = useMutation({
    mutationFn: () => take(api.POST(path, { ...inWorkspace(workspace), body })),
    onSuccess: done,
  });
  const invite = useMutation({
    mutationFn: (draft: boolean) =>
      take(
        api.POST("/api/v1/workspaces/{workspace}/invitations", {
          ...inWorkspace(workspace),
          body: {
            address: person,
            kind,
            role,
            resource: resource ?? null,
            draft,
            from: from || null,
            until: until || null,
          },
        }),
      ),
    onSuccess: done,
  });
  return (
    <Modal
      opened={props.opened}
      onClose={props.onClose}
      title={<strong>{props.title}</strong>}
      size="lg"
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack>
        {!isNamed && <PersonField label="Name or address" value={person} onChange={setPerson} />}
        <RoleSelect label="Role" value={role} onChange={setRole} atResource={!!resource} />
        {!props.resource && (
          <Select
            label="Where"
            placeholder="In the whole workspace"
            clearable
            searchable
            data={(resources.data?.items ?? []).map((one) => one.name)}
            value={at}
            onChange={setAt}
          />
        )}
        <Group grow align="start">
          <TextInput
            label="First day"
            description="Empty means at once."
            type="date"
            min={today}
            value={from}
            onChange={(event) => setFrom(event.currentTarget.value)}
          />
          <TextInput
            label="Last day"
            description="Empty means as long as they are here."
            type="date"
            min={today}
            value={until}
            onChange={(event) => setUntil(event.currentTarget.value)}
          />
        </Group>
        {isNew ? (
          <>
            <p>
              Nobody here has the address <strong>{person}</strong>. They can be invited with just this role.
            </p>
            <Select
              label="Kind"
              data={["staff", "guest", "partner", "client"]}
              value={kind}
              onChange={(one) => setKind(one ?? "guest")}
              allowDeselect={false}
            />
            <Refusal of={invite.error} />
            <Group justify="end">
              <Button variant="default" loading={invite.isPending} onClick={() => invite.mutate(true)}>
                Keep as a draft
              </Button>
              <Button loading={invite.isPending} onClick={() => invite.mutate(false)}>
                Invite {person}
              </Button>
            </Group>
          </>
        ) : (
          <>
            <Checkbox
              label="Tell those whose access changes by mail"
              checked={tell}
              onChange={(event) => setTell(event.currentTarget.checked)}
            />
            {plan.data && <Difference of={plan.data.difference} workspace={workspace} />}
            <Refusal of={give.error ?? plan.error} />
            <Group justify="end">
              <Button variant="default" onClick={props.onClose}>
                Keep as it is
              </Button>
              <Button disabled={!plan.data} loading={give.isPending} onClick={() => give.mutate()}>
                Give the role {role}
              </Button>
            </Group>
          </>
        )}
      </Stack>
    </Modal>
  );
}
