import { Button, Group } from "@mantine/core";
import { useState } from "react";
import { api, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { StepDialog } from "../ui/StepDialog";
import { useWorkspace } from "../Workspaces/useWorkspace";

/** Somebody switched off for a resource, and how that is called where it is shown. */
type Entry = { resource: string; holder: string; name: string };

/** Who is switched off for what, whatever is given to them, each with a way back. */
export function SwitchedOff({ off }: { off: Entry[] }) {
  const { workspace } = useWorkspace();
  const [asked, setAsked] = useState<Entry>();
  return (
    <Group gap="xs">
      {off.map((one) => (
        <Group key={one.holder + one.resource} gap="xs">
          {one.name}
          <Allowed duty="access">
            <Button
              size="compact-sm"
              variant="default"
              aria-label={`Switch ${one.name} on again`}
              onClick={() => setAsked(one)}
            >
              Switch on again …
            </Button>
          </Allowed>
        </Group>
      ))}
      {asked && (
        <StepDialog
          title={`Switch ${asked.name} on again`}
          word="Switch on"
          call={(dryRun) =>
            take(
              api.DELETE("/api/v1/workspaces/{workspace}/resources/{name}/off/{holder}", {
                params: {
                  path: { workspace, name: asked.resource, holder: asked.holder },
                  query: { dryRun },
                },
              }),
            )
          }
          onClose={() => setAsked(undefined)}
        />
      )}
    </Group>
  );
}
