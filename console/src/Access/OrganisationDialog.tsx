import { Button, Group, Modal, NumberInput, Select, Stack, Textarea, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, inWorkspace, type Organisation, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { Difference } from "./Difference";

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
    contacts: of?.contacts.map(contactText).join("\n") ?? "",
  });
  const set = (part: Partial<typeof form>) => setForm((before) => ({ ...before, ...part }));
  const body = {
    ...form,
    domains: form.domains.split(",").filter((domain) => domain.trim()),
    agreementEnds: form.agreementEnds || null,
    cap: form.cap === "" ? null : form.cap,
    contacts: form.contacts
      .split("\n")
      .filter((line) => line.trim())
      .map(contactOf),
  };
  const change = (organisation: string, dryRun: boolean) =>
    take(
      api.PUT(`${path}/{organisation}`, {
        params: { path: { workspace, organisation }, query: { dryRun } },
        body,
        headers: { "If-Match": `"${of?.version}"` },
      }),
    );
  // Only the end of the agreement changes what its people may do.
  const plan = useQuery({
    queryKey: [workspace, "organisation", of?.id, "until", form.agreementEnds],
    queryFn: () => change(of?.id ?? "", true),
    enabled: of !== undefined && form.agreementEnds !== (of.agreementEnds ?? ""),
    retry: false,
  });
  const save = useMutation({
    mutationFn: () => (of ? change(of.id, false) : take(api.POST(path, { ...inWorkspace(workspace), body }))),
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
            label="Contacts, one a line: Name <address>, title"
            autosize
            minRows={2}
            value={form.contacts}
            onChange={(event) => set({ contacts: event.currentTarget.value })}
          />
          {plan.data?.difference && <Difference of={plan.data.difference} workspace={workspace} />}
          <Refusal of={save.error ?? plan.error} />
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

type Contact = Organisation["contacts"][number];

function contactText({ name, address, title }: Contact) {
  return `${name} <${address}>${title ? `, ${title}` : ""}`;
}

/** A line as it is written: a name, an address in angle brackets, a title; or an address alone. */
function contactOf(line: string): Contact {
  const [, name, address, title] = /^(.*?)<([^>]*)>[\s,]*(.*)$/.exec(line) ?? [];
  return {
    name: (name ?? line).trim(),
    address: (address ?? line).trim(),
    title: title?.trim() || null,
  };
}
