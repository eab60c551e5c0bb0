import { Button, Group, Modal, MultiSelect, Stack } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { PersonField } from "../Access/PersonField";
import { api, inWorkspace, type Person, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";

/** Hands what somebody owns to somebody else, all or some of it, in one step. */
export function HandOverDialog(props: { person: Person; owns: string[]; onClose: () => void }) {
  const { person, owns } = props;
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const [to, setTo] = useState("");
  const [resources, setResources] = useState(owns);
  const hand = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/v1/workspaces/{workspace}/resources/handover", {
          ...inWorkspace(workspace),
          body: { from: person.id, to, resources },
        }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      props.onClose();
    },
  });
  return (
    <Modal
      opened
      onClose={props.onClose}
      title={<strong>Hand over what {person.name} owns</strong>}
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack>
        <MultiSelect label="What" data={owns} value={resources} onChange={setResources} />
        <PersonField label="To whom" value={to} onChange={setTo} />
        <Refusal of={hand.error} />
        <Group justify="end">
          <Button variant="default" onClick={props.onClose}>
            Keep as it is
          </Button>
          <Button
            disabled={!to || resources.length === 0}
            loading={hand.isPending}
            onClick={() => hand.mutate()}
          >
            Hand over
          </Button>
        </Group>
      </Stack>
    </Modal>
  );
}
