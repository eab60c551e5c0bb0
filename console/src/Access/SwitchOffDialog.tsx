import { Button, Group, Modal, Select, Stack } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, inWorkspace, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { Difference } from "./Difference";

/** Switches a person or a whole organisation off for a resource, whatever is given; who loses what is shown first. */
export function SwitchOffDialog(props: {
  name: string;
  holder: { person: string; organisation: null } | { person: null; organisation: string };
  /** Resources they are switched off for already. */
  offAt: string[];
  onClose: () => void;
}) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const [resource, setResource] = useState<string | null>(null);
  const resources = useQuery({
    queryKey: [workspace, "resources"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/resources", inWorkspace(workspace))),
  });
  const call = (dryRun: boolean) =>
    take(
      api.POST("/api/v1/workspaces/{workspace}/resources/{resource}/off", {
        params: { path: { workspace, resource: resource ?? "" }, query: { dryRun } },
        body: props.holder,
      }),
    );
  const plan = useQuery({
    queryKey: [workspace, "switch off", props.holder, resource],
    queryFn: () => call(true),
    enabled: resource !== null,
    retry: false,
  });
  const off = useMutation({
    mutationFn: () => call(false),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      props.onClose();
    },
  });
  return (
    <Modal
      opened
      onClose={props.onClose}
      title={<strong>Switch {props.name} off for a resource</strong>}
      size="lg"
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack>
        <Select
          label="Resource"
          description="Nothing that is given gets them in there, until they are switched on again."
          searchable
          data-autofocus
          data={(resources.data?.items ?? [])
            .map((one) => one.name)
            .filter((name) => !props.offAt.includes(name))}
          value={resource}
          onChange={setResource}
        />
        {plan.data && <Difference of={plan.data.difference} workspace={workspace} />}
        <Refusal of={off.error ?? plan.error} />
        <Group justify="end">
          <Button variant="default" onClick={props.onClose}>
            Keep as it is
          </Button>
          <Button color="alarm" disabled={!plan.data} loading={off.isPending} onClick={() => off.mutate()}>
            Switch off
          </Button>
        </Group>
      </Stack>
    </Modal>
  );
}
