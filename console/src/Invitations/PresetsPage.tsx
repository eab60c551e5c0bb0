import { Button, Checkbox, Group, Select, Textarea, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, inWorkspace, type Preset, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { CsvLink } from "../ui/CsvLink";
import { FormDialog } from "../ui/FormDialog";
import { NumberField } from "../ui/NumberField";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { SimpleTable } from "../ui/SimpleTable";
import { usualText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { bundleOf, Gives, givenBy, givesNothing } from "./Gives";
import { InviteNav } from "./InviteNav";

const path = "/api/v1/workspaces/{workspace}/presets";

/** What invitations carry again and again, under names. */
export function PresetsPage() {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const [edited, setEdited] = useState<Preset | "new">();
  const presets = useQuery({
    queryKey: [workspace, "presets"],
    queryFn: () => take(api.GET(path, inWorkspace(workspace))),
  });
  const remove = useMutation({
    mutationFn: (name: string) =>
      take(api.DELETE(`${path}/{name}`, { params: { path: { workspace, name } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: [workspace, "presets"] }),
  });
  return (
    <Page
      title="Presets"
      actions={
        <>
          <CsvLink workspace={workspace} list="presets?format=csv" />
          <Allowed duty="invite">
            <Button onClick={() => setEdited("new")}>Save a preset</Button>
          </Allowed>
        </>
      }
    >
      <InviteNav />
      <Refusal of={presets.error ?? remove.error} />
      <SimpleTable
        rows={presets.data?.items}
        keyOf={(preset) => preset.id}
        nothing="There is no preset. Save what you invite people with again and again."
        columns={[
          { head: "Name", cell: (preset) => preset.name },
          { head: "Kind", cell: (preset) => <Pennant kind={preset.kind} /> },
          { head: "Gives", cell: (preset) => preset.role },
          {
            head: "Stay",
            cell: (preset) => (preset.stayDays ? `${preset.stayDays} days` : "no end"),
            isOneLine: true,
          },
          { head: "Message", cell: (preset) => preset.message },
          {
            head: "Change or remove",
            isHeadHidden: true,
            cell: (preset) => (
              <Group gap="xs" wrap="nowrap">
                <Allowed duty="invite">
                  <Button
                    size="xs"
                    variant="default"
                    aria-label={`Change ${preset.name}`}
                    onClick={() => setEdited(preset)}
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
                </Allowed>
              </Group>
            ),
          },
        ]}
      />
      {edited && (
        <PresetDialog of={edited === "new" ? undefined : edited} onClose={() => setEdited(undefined)} />
      )}
    </Page>
  );
}

function PresetDialog({ of, onClose }: { of?: Preset; onClose: () => void }) {
  const { workspace, view } = useWorkspace();
  return (
    <FormDialog
      title={of ? "Change the preset" : "Save a preset"}
      word="Save"
      said="The preset is kept."
      initial={{
        name: of?.name ?? "",
        kind: of?.kind ?? "guest",
        gives: of ? givenBy(of.gives) : givesNothing,
        stayDays: (of?.stayDays ?? "") as number | "",
        noEnd: of !== undefined && !of.stayDays,
        organisation: of?.organisation ?? "",
        message: of?.message ?? "",
        language: of?.language ?? null,
      }}
      save={(form) => {
        const body = {
          ...form,
          role: null,
          gives: bundleOf(form.gives),
          stayDays: form.stayDays === "" || form.noEnd ? null : form.stayDays,
        };
        return take(
          of
            ? api.PUT(`${path}/{name}`, {
                params: { path: { workspace, name: of.id } },
                headers: { "If-Match": `"${of.version}"` },
                body,
              })
            : api.POST(path, { ...inWorkspace(workspace), body }),
        );
      }}
      onClose={onClose}
    >
      {(form) => (
        <>
          <TextInput label="Name" required maxLength={100} data-autofocus {...form.getInputProps("name")} />
          <Select
            label="Kind"
            data={["staff", "guest", "partner", "client"]}
            allowDeselect={false}
            {...form.getInputProps("kind")}
          />
          <Gives
            value={form.values.gives}
            onChange={(part) => form.setFieldValue("gives", { ...form.values.gives, ...part })}
          />
          <NumberField
            isOptional
            label="Days of the stay"
            description={usualText(view?.usualStayDays?.[form.values.kind])}
            min={1}
            disabled={form.values.noEnd}
            {...form.getInputProps("stayDays")}
          />
          <Checkbox label="No end" {...form.getInputProps("noEnd", { type: "checkbox" })} />
          <TextInput label="Organisation" {...form.getInputProps("organisation")} />
          <Textarea label="Message" autosize minRows={2} {...form.getInputProps("message")} />
        </>
      )}
    </FormDialog>
  );
}
