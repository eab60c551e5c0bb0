import { Button, Group, Modal, Stack } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Off, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/resources/{resource}";

/** Who is switched off for a resource, whatever is given to them, each with a way back. */
export function SwitchedOff(props: { resource: string; off: Off[] }) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const [asked, setAsked] = useState<Off>();
  const on = useMutation({
    mutationFn: (holder: string) =>
      take(
        api.DELETE(`${path}/off/{holder}`, {
          params: { path: { workspace, resource: props.resource, holder } },
        }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      setAsked(undefined);
    },
  });
  return (
    <Group gap="xs">
      {props.off.map((one) => (
        <Group key={one.holderId} gap="xs">
          {one.name}
          <Button
            size="compact-sm"
            variant="default"
            aria-label={`Switch ${one.name} on again`}
            onClick={() => setAsked(one)}
          >
            Switch on again …
          </Button>
        </Group>
      ))}
      <Modal
        opened={asked !== undefined}
        onClose={() => setAsked(undefined)}
        title={<strong>Switch {asked?.name} on again</strong>}
      >
        <Stack>
          <p>
            {asked?.isOrganisation ? "Its people get" : "They get"} what is given to them here, from now on.
          </p>
          <Refusal of={on.error} />
          <Group justify="end">
            <Button variant="default" onClick={() => setAsked(undefined)}>
              Keep as it is
            </Button>
            <Button loading={on.isPending} onClick={() => asked && on.mutate(asked.holderId)}>
              Switch on
            </Button>
          </Group>
        </Stack>
      </Modal>
    </Group>
  );
}
