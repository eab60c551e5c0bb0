import { Button, Modal, Select, Stack, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, inWorkspace, type Resource, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { Difference } from "./Difference";
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
  const change = (resource: string, dryRun: boolean) =>
    take(
      api.PUT(`${path}/{resource}`, {
        params: { path: { workspace, resource }, query: { dryRun } },
        body: form,
        headers: { "If-Match": `"${of?.version}"` },
      }),
    );
  // Only another area changes who sees it.
  const plan = useQuery({
    queryKey: [workspace, "resource", of?.id, "moved to", form.area],
    queryFn: () => change(of?.id ?? "", true),
    enabled: of !== undefined && form.area !== of.area,
    retry: false,
  });
  const save = useMutation({
    mutationFn: () =>
      of ? change(of.id, false) : take(api.POST(path, { ...inWorkspace(workspace), body: form })),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      onClose();
    },
  });
  const set = (part: Partial<typeof form>) => setForm((before) => ({ ...before, ...part }));
  return (
    <Modal
      opened
      onClose={onClose}
      size="lg"
      title={<strong>{of ? `Change ${of.name}` : "Add a resource"}</strong>}
      closeButtonProps={{ "aria-label": "Close" }}
    >
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
            label="Owner"
            // An owner is kept by id: the name is what somebody can read.
            value={of?.ownerId && form.owner === of.ownerId ? of.owner : form.owner}
            onChange={(owner) => set({ owner })}
          />
          {plan.data?.difference && <Difference of={plan.data.difference} workspace={workspace} />}
          <Refusal of={save.error ?? plan.error} />
          <Button type="submit" loading={save.isPending}>
            {of ? "Change" : "Add"}
          </Button>
        </Stack>
      </form>
    </Modal>
  );
}
