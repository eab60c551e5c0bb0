import { Select, TextInput } from "@mantine/core";
import { api, inWorkspace, type Resource, take } from "../api";
import { FormDialog } from "../ui/FormDialog";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { PersonField } from "./PersonField";

const path = "/api/v1/workspaces/{workspace}/resources";

/** Adds a resource, or changes one and who owns it. */
export function ResourceDialog(props: { areas: string[]; of?: Resource; onClose: () => void }) {
  const { areas, of } = props;
  const { workspace } = useWorkspace();
  const initial = {
    name: of?.name ?? "",
    area: of?.area ?? areas[0] ?? "",
    about: of?.about ?? "",
    owner: of?.ownerId ?? "",
  };
  const change = (one: Resource, body: typeof initial, dryRun: boolean) =>
    take(
      api.PUT(`${path}/{name}`, {
        params: { path: { workspace, name: one.id }, query: { dryRun } },
        headers: { "If-Match": `"${one.version}"` },
        body,
      }),
    );
  return (
    <FormDialog
      title={of ? `Change ${of.name}` : "Add a resource"}
      word={of ? "Change" : "Add"}
      said="The resource is kept."
      initial={initial}
      save={(body) =>
        of ? change(of, body, false) : take(api.POST(path, { ...inWorkspace(workspace), body }))
      }
      // Only another area changes who sees it.
      plan={(body) => (of && body.area !== of.area ? () => change(of, body, true) : undefined)}
      onClose={props.onClose}
    >
      {(form) => (
        <>
          <TextInput label="Name" required data-autofocus {...form.getInputProps("name")} />
          <Select label="Area" data={areas} allowDeselect={false} {...form.getInputProps("area")} />
          <TextInput label="About it" {...form.getInputProps("about")} />
          <PersonField
            label="Owner"
            // An owner is kept by id: the name is what somebody can read.
            value={of?.ownerId && form.values.owner === of.ownerId ? of.owner : form.values.owner}
            onChange={(owner) => form.setFieldValue("owner", owner)}
          />
        </>
      )}
    </FormDialog>
  );
}
