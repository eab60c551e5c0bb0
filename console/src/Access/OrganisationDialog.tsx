import { Group, Select, Textarea, TextInput } from "@mantine/core";
import { api, inWorkspace, type Organisation, take } from "../api";
import { DayField } from "../ui/DayField";
import { FormDialog } from "../ui/FormDialog";
import { NumberField } from "../ui/NumberField";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/organisations";

/** Adds or changes an organisation. */
export function OrganisationDialog({ of, onClose }: { of?: Organisation; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const initial = {
    name: of?.name ?? "",
    kind: of?.kind ?? "partner",
    code: of?.code ?? "",
    colour: of?.colour ?? "",
    reference: of?.reference ?? "",
    domains: of?.domains.join(", ") ?? "",
    agreementEnds: of?.agreementEnds ?? "",
    cap: (of?.cap ?? "") as number | "",
    contacts: of?.contacts.map(contactText).join("\n") ?? "",
  };
  const change = (one: Organisation, form: typeof initial, dryRun: boolean) =>
    take(
      api.PUT(`${path}/{name}`, {
        params: { path: { workspace, name: one.id }, query: { dryRun } },
        headers: { "If-Match": `"${one.version}"` },
        body: bodyOf(form),
      }),
    );
  return (
    <FormDialog
      title={of ? `Change ${of.name}` : "Add an organisation"}
      word={of ? `Change ${of.name}` : "Add"}
      said="The organisation is kept."
      initial={initial}
      save={(form) =>
        of ? change(of, form, false) : take(api.POST(path, { ...inWorkspace(workspace), body: bodyOf(form) }))
      }
      // Only the end of the agreement changes what its people may do.
      plan={(form) =>
        of && form.agreementEnds !== (of.agreementEnds ?? "") ? () => change(of, form, true) : undefined
      }
      onClose={onClose}
    >
      {(form) => (
        <>
          <TextInput label="Name" required data-autofocus {...form.getInputProps("name")} />
          <Group grow align="start">
            <Select
              label="Its people come as"
              data={["guest", "partner", "client"]}
              allowDeselect={false}
              {...form.getInputProps("kind")}
            />
            <TextInput label="Code" maxLength={8} {...form.getInputProps("code")} />
            <TextInput
              label="Colour"
              type="color"
              {...form.getInputProps("colour")}
              value={form.values.colour || "#555555"}
            />
          </Group>
          <Group grow align="start">
            <TextInput label="Reference number" {...form.getInputProps("reference")} />
            <NumberField
              isOptional
              label="At most so many people"
              description="Empty means any number."
              {...form.getInputProps("cap")}
            />
            <DayField
              label="The agreement ends on"
              description="After it none of its people get in."
              value={form.values.agreementEnds}
              onChange={(day) => form.setFieldValue("agreementEnds", day)}
              error={form.errors.agreementEnds}
            />
          </Group>
          <TextInput label="Mail domains, separated by commas" {...form.getInputProps("domains")} />
          <Textarea
            label="Contacts, one a line: Name <address>, title"
            autosize
            minRows={2}
            {...form.getInputProps("contacts")}
          />
        </>
      )}
    </FormDialog>
  );
}

type Words = {
  name: string;
  kind: string;
  code: string;
  colour: string;
  reference: string;
  domains: string;
  agreementEnds: string;
  cap: number | "";
  contacts: string;
};

function bodyOf(form: Words) {
  return {
    ...form,
    domains: form.domains.split(",").filter((domain) => domain.trim()),
    agreementEnds: form.agreementEnds || null,
    cap: form.cap === "" ? null : form.cap,
    contacts: form.contacts
      .split("\n")
      .filter((line) => line.trim())
      .map(contactOf),
  };
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
