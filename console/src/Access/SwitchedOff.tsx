import { Button, Group, Modal, Stack } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { Difference } from "./Difference";

const path = "/api/v1/workspaces/{workspace}/resources/{resource}/off/{holder}";

/** Somebody switched off for a resource, and how that is called where it is shown. */
type Entry = { resource: string; holder: string; name: string };

/** Who is switched off for what, whatever is given to them, each with a way back. */
export function SwitchedOff({ off }: { off: Entry[] }) {
  const [asked, setAsked] = useState<Entry>();
  return (
    <Group gap="xs">
      {off.map((one) => (
        <Group key={one.holder + one.resource} gap="xs">
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
      {asked && <SwitchOnDialog of={asked} onClose={() => setAsked(undefined)} />}
    </Group>
  );
}

function SwitchOnDialog({ of, onClose }: { of: Entry; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const call = (dryRun: boolean) =>
    take(
      api.DELETE(path, {
        params: { path: { workspace, resource: of.resource, holder: of.holder }, query: { dryRun } },
      }),
    );
  const plan = useQuery({
    queryKey: [workspace, "switch on", of],
    queryFn: () => call(true),
    retry: false,
    staleTime: 0,
  });
  const on = useMutation({
    mutationFn: () => call(false),
    onSuccess: async () => {
      onClose();
      await queries.invalidateQueries({ queryKey: [workspace] });
    },
  });
  return (
    <Modal
      opened
      onClose={onClose}
      title={<strong>Switch {of.name} on again</strong>}
      size="lg"
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack>
        {plan.data && <Difference of={plan.data.difference} workspace={workspace} />}
        <Refusal of={on.error ?? plan.error} />
        <Group justify="end">
          <Button variant="default" onClick={onClose}>
            Keep as it is
          </Button>
          <Button disabled={!plan.data} loading={on.isPending} onClick={() => on.mutate()}>
            Switch on
          </Button>
        </Group>
      </Stack>
    </Modal>
  );
}
