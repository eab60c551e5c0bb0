import {
  Button,
  Group,
  Modal,
  NumberInput,
  Select,
  Skeleton,
  Stack,
  Table,
  Textarea,
  TextInput,
} from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, inWorkspace, type Preset, take } from "../api";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { bundleOf, Gives, givenBy, givesNothing } from "./Gives";
import { InviteNav } from "./InviteNav";

const path = "/api/v1/workspaces/{workspace}/presets";
const blank = {
  name: "",
  kind: "guest",
  gives: givesNothing,
  stayDays: "" as number | "",
  organisation: "",
  message: "",
  language: null as string | null,
};
type Form = typeof blank;

/** What invitations carry again and again, under names. */
export function PresetsPage() {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const [edited, setEdited] = useState<{ id?: string; form: Form }>();
  const refresh = () => queries.invalidateQueries({ queryKey: [workspace, "presets"] });
  const presets = useQuery({
    queryKey: [workspace, "presets"],
    queryFn: () => take(api.GET(path, inWorkspace(workspace))),
  });
  const remove = useMutation({
    mutationFn: (preset: string) =>
      take(api.DELETE(`${path}/{preset}`, { params: { path: { workspace, preset } } })),
    onSuccess: refresh,
  });
  const save = useMutation({
    mutationFn: ({ id, form }: { id?: string; form: Form }) => {
      const body = {
        ...form,
        role: null,
        gives: bundleOf(form.gives),
        stayDays: form.stayDays === "" ? null : form.stayDays,
      };
      return id
        ? take(api.PUT(`${path}/{preset}`, { params: { path: { workspace, preset: id } }, body }))
        : take(api.POST(path, { ...inWorkspace(workspace), body }));
    },
    onSuccess: () => {
      setEdited(undefined);
      return refresh();
    },
  });
  const set = (part: Partial<Form>) =>
    setEdited((before) => before && { ...before, form: { ...before.form, ...part } });
  const form = edited?.form ?? blank;
  return (
    <Page title="Presets" actions={<Button onClick={() => setEdited({ form: blank })}>Save a preset</Button>}>
      <InviteNav workspace={workspace} />
      <Refusal of={presets.error ?? remove.error} />
      {presets.isPending && <Skeleton height={160} />}
      {presets.data?.items.length === 0 && (
        <p className="sheet">There is no preset. Save what you invite people with again and again.</p>
      )}
      {presets.data && presets.data.items.length > 0 && (
        <div className="sheet table-holder">
          <Table verticalSpacing={8}>
            <Table.Thead>
              <Table.Tr>
                <Table.Th>Name</Table.Th>
                <Table.Th>Kind</Table.Th>
                <Table.Th>Gives</Table.Th>
                <Table.Th>Stay</Table.Th>
                <Table.Th>Message</Table.Th>
                <Table.Th>
                  <span className="visually-hidden">Change or remove</span>
                </Table.Th>
              </Table.Tr>
            </Table.Thead>
            <Table.Tbody>
              {presets.data.items.map((preset) => (
                <Table.Tr key={preset.id}>
                  <Table.Td>{preset.name}</Table.Td>
                  <Table.Td>
                    <Pennant kind={preset.kind} />
                  </Table.Td>
                  <Table.Td>{preset.role}</Table.Td>
                  <Table.Td className="one-line">
                    {preset.stayDays ? `${preset.stayDays} days` : "no end"}
                  </Table.Td>
                  <Table.Td>{preset.message}</Table.Td>
                  <Table.Td>
                    <Group gap="xs" wrap="nowrap">
                      <Button
                        size="xs"
                        variant="default"
                        aria-label={`Change ${preset.name}`}
                        onClick={() => setEdited({ id: preset.id, form: formOf(preset) })}
                      >
                        Change
                      </Button>
                      <Button
                        size="xs"
                        variant="default"
                        aria-label={`Remove ${preset.name}`}
                        onClick={() => remove.mutate(preset.id)}
                      >
                        Remove
                      </Button>
                    </Group>
                  </Table.Td>
                </Table.Tr>
              ))}
            </Table.Tbody>
          </Table>
        </div>
      )}
      <Modal
        opened={edited !== undefined}
        onClose={() => setEdited(undefined)}
        title={edited?.id ? "Change the preset" : "Save a preset"}
      >
        <form
          onSubmit={(event) => {
            event.preventDefault();
            if (edited) save.mutate(edited);
          }}
        >
          <Stack>
            <TextInput
              label="Name"
              required
              maxLength={100}
              data-autofocus
              value={form.name}
              onChange={(event) => set({ name: event.currentTarget.value })}
            />
            <Select
              label="Kind"
              data={["staff", "guest", "partner", "client"]}
              value={form.kind}
              onChange={(kind) => set({ kind: kind ?? "guest" })}
              allowDeselect={false}
            />
            <Gives value={form.gives} onChange={(part) => set({ gives: { ...form.gives, ...part } })} />
            <NumberInput
              label="Days of the stay"
              description="Empty means no end."
              min={1}
              value={form.stayDays}
              onChange={(days) => set({ stayDays: days === "" ? "" : Number(days) })}
            />
            <TextInput
              label="Organisation"
              value={form.organisation}
              onChange={(event) => set({ organisation: event.currentTarget.value })}
            />
            <Textarea
              label="Message"
              autosize
              minRows={2}
              value={form.message}
              onChange={(event) => set({ message: event.currentTarget.value })}
            />
            <Refusal of={save.error} />
            <Group>
              <Button type="submit" loading={save.isPending}>
                Save
              </Button>
            </Group>
          </Stack>
        </form>
      </Modal>
    </Page>
  );
}

function formOf(preset: Preset): Form {
  const { name, kind, organisation, message } = preset;
  return {
    name,
    kind,
    gives: givenBy(preset.gives),
    organisation,
    message,
    stayDays: preset.stayDays ?? "",
    language: preset.language,
  };
}
