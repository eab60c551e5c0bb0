import { Select } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { api, inWorkspace, take } from "../api";
import { StepDialog } from "../ui/StepDialog";
import { useWorkspace } from "../Workspaces/useWorkspace";

/** Switches a person or a whole organisation off for a resource, whatever is given to them. */
export function SwitchOffDialog(props: {
  name: string;
  holder: { person: string; organisation: null } | { person: null; organisation: string };
  /** Resources they are switched off for already. */
  offAt: string[];
  onClose: () => void;
}) {
  const { workspace } = useWorkspace();
  const resources = useQuery({
    queryKey: [workspace, "resources"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/resources", inWorkspace(workspace))),
  });
  return (
    <StepDialog
      title={`Switch ${props.name} off for a resource`}
      word="Switch off"
      isAlarming
      initial={{ resource: "" }}
      isChosen={({ resource }) => resource !== ""}
      call={(dryRun, { resource }) =>
        take(
          api.POST("/api/v1/workspaces/{workspace}/resources/{name}/off", {
            params: { path: { workspace, name: resource }, query: { dryRun } },
            body: props.holder,
          }),
        )
      }
      onClose={props.onClose}
    >
      {(form) => (
        <Select
          label="Resource"
          description="Nothing that is given gets them in there, until they are switched on again."
          searchable
          data-autofocus
          data={(resources.data?.items ?? [])
            .map((one) => one.name)
            .filter((name) => !props.offAt.includes(name))}
          value={form.values.resource || null}
          onChange={(name) => form.setFieldValue("resource", name ?? "")}
        />
      )}
    </StepDialog>
  );
}
