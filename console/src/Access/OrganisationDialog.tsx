import { Button, Group, Modal, NumberInput, Select, Stack, Textarea, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, inWorkspace, type Organisation, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/organisations";

/** Adds or changes an organisation. */
export function OrganisationDialog({ of, onClose }: { of?: Organisation; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const [form, setForm] = useState({
    name: of?.name ?? "",
    kind: of?.kind ?? "partner",
    code: of?.code ?? "",
    colour: of?.colour ?? "",
    reference: of?.reference ?? "",
    domains: of?.domains.join(", ") ?? "",
    agreementEnds: of?.agreementEnds ?? "",
    cap: (of?.cap ?? "") as number | "",
    contacts: of?.contacts.map((one) => `${one.name} <${one.address}>`).join("\n") ?? "",
  });
  const set = (part: Partial<typeof form>) => setForm((before) => ({ ...before, ...part }));
  const save = useMutation({
    mutationFn: () => {
      const body = {
        ...form,
        domains: form.domains.split(",").filter((domain) => domain.trim()),
        agreementEnds: form.agreementEnds || null,
        cap: form.cap === "" ? null : form.cap,
        contacts: form.contacts
          .split("\n")
          .filter((line) => line.trim())
          .map((line) => {
            const [, name, address] = /^(.*?)<([^>]*)>/.exec(line) ?? [];
            return { name: (name ?? line).trim(), address: (address ?? line).trim(), title: null };
          }),
      };
      return take(
        of
          ? api.PUT(`${path}/{organisation}`, {
              params: { path: { workspace, organisation: of.id } },
              body,
              headers: { "If-Match": `"${of.version}"` },
            })
          : api.POST(path, { ...inWorkspace(workspace), body }),
      );
    },
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
      title={<strong>{of ? `Change ${of.name}` : "Add an organisation"}</strong>}
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
          <Group grow align="start">
            <Select
              label="Its people come as"
              data={["guest", "partner", "client"]}
              value={form.kind}
              onChange={(kind) => set({ kind: kind ?? "partner" })}
              allowDeselect={false}
            />
            <TextInput
              label="Code"
              maxLength={8}
              value={form.code}
              onChange={(event) => set({ code: event.currentTarget.value })}
            />
            <TextInput
              label="Colour"
              type="color"
              value={form.colour || "#555555"}
              onChange={(event) => set({ colour: event.currentTarget.value })}
            />
          </Group>
          <Group grow align="start">
            <TextInput
              label="Reference number"
              value={form.reference}
              onChange={(event) => set({ reference: event.currentTarget.value })}
            />
            <NumberInput
              label="At most so many people"
              description="Empty means any number."
              min={0}
              value={form.cap}
              onChange={(cap) => set({ cap: cap === "" ? "" : Number(cap) })}
            />
            <TextInput
              label="The agreement ends on"
              description="After it none of its people get in."
              type="date"
              value={form.agreementEnds}
              onChange={(event) => set({ agreementEnds: event.currentTarget.value })}
            />
          </Group>
          <TextInput
            label="Mail domains, separated by commas"
            value={form.domains}
            onChange={(event) => set({ domains: event.currentTarget.value })}
          />
          <Textarea
            label="Contacts, one a line: Name <address>"
            autosize
            minRows={2}
            value={form.contacts}
            onChange={(event) => set({ contacts: event.currentTarget.value })}
          />
          <Refusal of={save.error} />
          <Group>
            <Button type="submit" loading={save.isPending}>
              {of ? `Change ${of.name}` : "Add"}
            </Button>
          </Group>
        </Stack>
      </form>
    </Modal>
  );
}
