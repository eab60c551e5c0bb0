import { Button, Modal, Select, Stack, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, inWorkspace, type Resource, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { PersonField } from "./PersonField";

const path = "/api/v1/workspaces/{workspace}/resources";

/** Adds a resource, or changes one and who owns it. */
export function ResourceDialog({
  areas,
  of,
  onClose,
}: {
  areas: string[];
  of?: Resource;
  onClose: () => void;
}) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const [form, setForm] = useState({
    name: of?.name ?? "",
    area: of?.area ?? areas[0] ?? "",
    about: of?.about ?? "",
    owner: of?.ownerId ?? "",
  });
  const save = useMutation({
    mutationFn: () =>
      take(
        of
          ? api.PUT(`${path}/{resource}`, {
              params: { path: { workspace, resource: of.id } },
              body: form,
              headers: { "If-Match": `"${of.version}"` },
            })
          : api.POST(path, { ...inWorkspace(workspace), body: form }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      onClose();
    },
  });
  const set = (part: Partial<typeof form>) => setForm((before) => ({ ...before, ...part }));
  return (
    <Modal opened onClose={onClose} title={<strong>{of ? `Change ${of.name}` : "Add a resource"}</strong>}>
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
            onChange={(event) => set({ name: event.currentTarget.value })}
          />
          <Select
            label="Area"
            data={areas}
            value={form.area}
            onChange={(area) => set({ area: area ?? "" })}
            allowDeselect={false}
          />
          <TextInput
            label="About it"
            value={form.about}
            onChange={(event) => set({ about: event.currentTarget.value })}
          />
          <PersonField
            label={of?.owner ? `Owner, now ${of.owner}` : "Owner"}
            value={form.owner}
            onChange={(owner) => set({ owner })}
          />
          <Refusal of={save.error} />
          <Button type="submit" loading={save.isPending}>
            {of ? "Change" : "Add"}
          </Button>
        </Stack>
      </form>
    </Modal>
  );
}
