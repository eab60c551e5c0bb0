import { Button, Select, Text } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, inWorkspace, take } from "../api";
import { FormDialog } from "../ui/FormDialog";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { RoleSelect } from "./RoleSelect";

const path = "/api/v1/workspaces/{workspace}/groups/{name}/move-in";

/** Moves people who have a role directly under a group: who, and what each gains; nobody loses anything. */
export function MoveInDialog({ id, name, onClose }: { id: string; name: string; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const place = { path: { workspace, name: id } };
  const resources = useQuery({
    queryKey: [workspace, "resources"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/resources", inWorkspace(workspace))),
  });
  const undo = useMutation({
    mutationFn: () => take(api.POST(`${path}/undo`, { params: place })),
    onSuccess: async (done) => {
      notifications.show({ message: `${done.gives} is given directly again, and not by ${done.group}.` });
      await queries.invalidateQueries({ queryKey: [workspace] });
      onClose();
    },
  });
  const initial = { role: "", resource: "" };
  const call = (values: typeof initial, dryRun: boolean) =>
    take(
      api.POST(path, {
        params: { ...place, query: { dryRun } },
        body: { role: values.role, resource: values.resource || null, people: null },
      }),
    );
  return (
    <FormDialog
      isStep
      title={`Move people under ${name}`}
      word="Move them"
      said="They have it by the group now."
      initial={initial}
      plan={(values) => (values.role ? () => call(values, true) : undefined)}
      save={(values) => call(values, false)}
      beside={
        <Button variant="subtle" loading={undo.isPending} onClick={() => undo.mutate()}>
          Undo the last move
        </Button>
      }
      onClose={onClose}
    >
      {(form, plan) => (
        <>
          <Text size="sm" className="soft">
            Whoever has a role directly has it by the group then. Nobody loses anything on any day, or nothing
            is done.
          </Text>
          <RoleSelect label="What they have directly" {...form.getInputProps("role")} atResource />
          <Select
            label="Where"
            data={[
              { value: "", label: "The whole workspace" },
              ...(resources.data?.items ?? []).map((one) => ({ value: one.name, label: one.name })),
            ]}
            allowDeselect={false}
            searchable
            {...form.getInputProps("resource")}
          />
          {plan.data && (
            <div>
              <Text fw={650}>
                {plan.data.people.length === 1 ? "1 person" : `${plan.data.people.length} people`}:{" "}
                {plan.data.gives}
              </Text>
              <ul className="follows">
                {plan.data.people.map((person) => (
                  <li key={person.id}>
                    {person.name}
                    {person.joins ? " joins the group" : " is in the group"}
                    {person.gains.map((gain) => (
                      <div key={gain}>gains {gain}</div>
                    ))}
                  </li>
                ))}
              </ul>
            </div>
          )}
          <Refusal of={undo.error} />
        </>
      )}
    </FormDialog>
  );
}
