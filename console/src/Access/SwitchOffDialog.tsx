import { Select } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, inWorkspace, take } from "../api";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { PlannedDialog } from "./PlannedDialog";

/** Switches a person or a whole organisation off for a resource, whatever is given to them. */
export function SwitchOffDialog(props: {
  name: string;
  holder: { person: string; organisation: null } | { person: null; organisation: string };
  /** Resources they are switched off for already. */
  offAt: string[];
  onClose: () => void;
}) {
  const { workspace } = useWorkspace();
  const [resource, setResource] = useState<string>();
  const resources = useQuery({
    queryKey: [workspace, "resources"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/resources", inWorkspace(workspace))),
  });
  return (
    <PlannedDialog
      title={`Switch ${props.name} off for a resource`}
      word="Switch off"
      isAlarming
      chosen={resource}
      call={(dryRun) =>
        take(
          api.POST("/api/v1/workspaces/{workspace}/resources/{resource}/off", {
            params: { path: { workspace, resource: resource ?? "" }, query: { dryRun } },
            body: props.holder,
          }),
        )
      }
      onClose={props.onClose}
    >
      <Select
        label="Resource"
        description="Nothing that is given gets them in there, until they are switched on again."
        searchable
        data-autofocus
        data={(resources.data?.items ?? [])
          .map((one) => one.name)
          .filter((name) => !props.offAt.includes(name))}
        value={resource ?? null}
        onChange={(name) => setResource(name ?? undefined)}
      />
    </PlannedDialog>
  );
}
