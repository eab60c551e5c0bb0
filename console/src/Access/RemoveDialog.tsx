import { Button, Group, Modal, Stack, Text } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { Difference as Change } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { Difference } from "./Difference";

/** Removes something with what is given by it; what that takes from whom is shown first. */
export function RemoveDialog(props: {
  what: string;
  name: string;
  /** What is said of it beside the difference. */
  note?: string;
  call: (dryRun: boolean) => Promise<{ difference?: Change } | undefined>;
  onClose: () => void;
  onDone: () => Promise<void>;
}) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const plan = useQuery({
    queryKey: [workspace, "remove", props.what, props.name],
    queryFn: async () => (await props.call(true)) ?? {},
    retry: false,
    staleTime: 0,
  });
  const remove = useMutation({
    mutationFn: () => props.call(false),
    onSuccess: async () => {
      await props.onDone();
      await queries.invalidateQueries({ queryKey: [workspace] });
    },
  });
  return (
    <Modal
      opened
      onClose={props.onClose}
      title={
        <strong>
          Remove the {props.what} {props.name}
        </strong>
      }
      size="lg"
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack>
        {props.note && <Text>{props.note}</Text>}
        {plan.data?.difference && <Difference of={plan.data.difference} workspace={workspace} />}
        <Refusal of={remove.error ?? plan.error} />
        <Group justify="end">
          <Button variant="default" onClick={props.onClose}>
            Keep it
          </Button>
          <Button
            color="alarm"
            disabled={!plan.data}
            loading={remove.isPending}
            onClick={() => remove.mutate()}
          >
            Remove {props.name}
          </Button>
        </Group>
      </Stack>
    </Modal>
  );
}
