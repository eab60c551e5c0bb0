import { Button, Group, Modal, Stack, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type AccessGroup, api, inWorkspace, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/groups";

/** Makes a group, or changes its name and what is said of it. */
export function GroupDialog(props: {
  of?: AccessGroup;
  onClose: () => void;
  onDone?: (group: AccessGroup) => void;
}) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const { of, onClose } = props;
  const [form, setForm] = useState({ name: of?.name ?? "", about: of?.about ?? "" });
  const save = useMutation({
    mutationFn: () =>
      take(
        of
          ? api.PUT(`${path}/{group}`, {
              params: { path: { workspace, group: of.id } },
              headers: { "If-Match": `"${of.version}"` },
              body: form,
            })
          : api.POST(path, { ...inWorkspace(workspace), body: form }),
      ),
    onSuccess: async (group) => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      onClose();
      props.onDone?.(group);
    },
  });
  return (
    <Modal opened onClose={onClose} title={<strong>{of ? `Change ${of.name}` : "Make a group"}</strong>}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <Stack>
          <TextInput
            label="Name"
            required
            data-autofocus
            value={form.name}
            onChange={(event) => {
              const name = event.currentTarget.value;
              setForm((before) => ({ ...before, name }));
            }}
          />
          <TextInput
            label="About it"
            value={form.about}
            onChange={(event) => {
              const about = event.currentTarget.value;
              setForm((before) => ({ ...before, about }));
            }}
          />
          <Refusal of={save.error} />
          <Group>
            <Button type="submit" loading={save.isPending}>
              {of ? "Change" : "Make the group"}
            </Button>
          </Group>
        </Stack>
      </form>
    </Modal>
  );
}
