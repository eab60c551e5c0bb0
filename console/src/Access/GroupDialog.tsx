import { TextInput } from "@mantine/core";
import { type AccessGroup, api, inWorkspace, take } from "../api";
import { FormDialog } from "../ui/FormDialog";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/groups";

/** Makes a group, or changes its name and what is said of it. */
export function GroupDialog({ of, onClose }: { of?: AccessGroup; onClose: () => void }) {
  const { workspace } = useWorkspace();
  return (
    <FormDialog
      title={of ? `Change ${of.name}` : "Make a group"}
      word={of ? "Change" : "Make the group"}
      said="The group is kept."
      initial={{ name: of?.name ?? "", about: of?.about ?? "" }}
      save={(body) =>
        take(
          of
            ? api.PUT(`${path}/{name}`, {
                params: { path: { workspace, name: of.id } },
                headers: { "If-Match": `"${of.version}"` },
                body,
              })
            : api.POST(path, { ...inWorkspace(workspace), body }),
        )
      }
      onClose={onClose}
    >
      {(form) => (
        <>
          <TextInput label="Name" required data-autofocus {...form.getInputProps("name")} />
          <TextInput label="About it" {...form.getInputProps("about")} />
        </>
      )}
    </FormDialog>
  );
}
