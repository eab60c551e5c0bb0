import { Button, Group, Modal, Stack } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { Difference as Change } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { Difference } from "./Difference";

/** A step whose difference is shown before it is made: planned as soon as enough is chosen, made by the button. */
export function PlannedDialog(props: {
  title: string;
  /** What the button says. */
  word: string;
  isAlarming?: boolean;
  /** What is chosen; undefined as long as that is not enough to plan. */
  chosen: unknown;
  call: (dryRun: boolean) => Promise<{ difference: Change }>;
  onClose: () => void;
  /** What comes after it is made; closing, if nothing else. */
  onDone?: () => Promise<void>;
  children?: ReactNode;
}) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const plan = useQuery({
    queryKey: [workspace, "plan", props.title, props.chosen],
    queryFn: () => props.call(true),
    enabled: props.chosen !== undefined,
    retry: false,
    staleTime: 0,
    gcTime: 0,
  });
  const make = useMutation({
    mutationFn: () => props.call(false),
    onSuccess: async () => {
      await (props.onDone ?? props.onClose)();
      await queries.invalidateQueries({ queryKey: [workspace] });
    },
  });
  return (
    <Modal
      opened
      onClose={props.onClose}
      title={<strong>{props.title}</strong>}
      size="lg"
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack>
        {props.children}
        {plan.data && <Difference of={plan.data.difference} workspace={workspace} />}
        <Refusal of={make.error ?? plan.error} />
        <Group justify="end">
          <Button variant="default" onClick={props.onClose}>
            Keep as it is
          </Button>
          <Button
            color={props.isAlarming ? "alarm" : undefined}
            disabled={!plan.data}
            loading={make.isPending}
            onClick={() => make.mutate()}
          >
            {props.word}
          </Button>
        </Group>
      </Stack>
    </Modal>
  );
}
