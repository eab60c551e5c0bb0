import { Button, Group, Modal, Stack } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Grant, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { dayText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { Difference } from "./Difference";

const path = "/api/v1/workspaces/{workspace}/grants/{id}";

/** What is given to somebody, a group or an organisation, each taken with what that changes in sight. */
export function GrantList({ grants, nothing }: { grants: Grant[]; nothing: string }) {
  const [asked, setAsked] = useState<Grant>();
  if (grants.length === 0) return <p className="soft">{nothing}</p>;
  return (
    <>
      <ul className="paths">
        {grants.map((grant) => (
          <li key={grant.id}>
            <Group justify="space-between">
              <span>
                <strong>{grant.role}</strong>{" "}
                {grant.resource ? `at ${grant.resource}` : "in the whole workspace"}
                {grant.from && `, from ${dayText(grant.from)}`}
                {grant.until && `, until ${dayText(grant.until)}`}
                <span className="soft"> given by {grant.givenBy}</span>
              </span>
              <Button size="compact-sm" variant="default" onClick={() => setAsked(grant)}>
                Take …
              </Button>
            </Group>
          </li>
        ))}
      </ul>
      {asked && <TakeDialog grant={asked} onClose={() => setAsked(undefined)} />}
    </>
  );
}

function TakeDialog({ grant, onClose }: { grant: Grant; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const call = (dryRun: boolean) =>
    take(api.DELETE(path, { params: { path: { workspace, id: grant.id }, query: { dryRun } } }));
  const plan = useQuery({
    queryKey: [workspace, "take", grant.id],
    queryFn: () => call(true),
    retry: false,
  });
  const done = useMutation({
    mutationFn: () => call(false),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      onClose();
    },
  });
  return (
    <Modal
      opened
      onClose={onClose}
      size="lg"
      title={
        <strong>
          Take the role {grant.role} from {grant.holder}
        </strong>
      }
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack>
        {plan.data && <Difference of={plan.data.difference} workspace={workspace} />}
        <Refusal of={done.error ?? plan.error} />
        <Group justify="end">
          <Button variant="default" onClick={onClose}>
            Keep as it is
          </Button>
          <Button color="alarm" disabled={!plan.data} loading={done.isPending} onClick={() => done.mutate()}>
            Take {grant.role}
          </Button>
        </Group>
      </Stack>
    </Modal>
  );
}
