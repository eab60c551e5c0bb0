import { TextInput } from "@mantine/core";
import { api, inWorkspace, type Pool, take } from "../api";
import { FormDialog } from "../ui/FormDialog";
import { NumberField } from "../ui/NumberField";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/seats";

/** Adds a seat pool, or changes one. */
export function PoolDialog({ of, onClose }: { of?: Pool; onClose: () => void }) {
  const { workspace } = useWorkspace();
  return (
    <FormDialog
      title={of ? `Change ${of.name}` : "Add a seat pool"}
      word="Save"
      said="The seat pool is kept."
      initial={{
        name: of?.name ?? "",
        about: of?.about ?? "",
        total: of?.total ?? 1,
        changesPerSeat: (of?.changesPerSeat ?? "") as number | "",
      }}
      save={(form) => {
        const body = { ...form, changesPerSeat: form.changesPerSeat === "" ? null : form.changesPerSeat };
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
          <TextInput label="Name" required data-autofocus {...form.getInputProps("name")} />
          <TextInput label="About it" {...form.getInputProps("about")} />
          <NumberField label="Seats" {...form.getInputProps("total")} />
          <NumberField
            isOptional
            label="Changes a year for each seat"
            description="Pooled over all seats, begun anew each calendar year. Empty means any number."
            {...form.getInputProps("changesPerSeat")}
          />
        </>
      )}
    </FormDialog>
  );
}
