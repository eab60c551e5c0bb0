import { Button, Checkbox, Group, Select, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type Area, api, inWorkspace, take } from "../api";
import { type Form, FormDialog } from "../ui/FormDialog";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/areas";
const levels = ["view", "contribute", "edit", "manage"];

/** Adds an area, or changes or removes one. */
export function AreaDialog({ areas, of, onClose }: { areas: string[]; of?: Area; onClose: () => void }) {
  const { workspace } = useWorkspace();
  return (
    <FormDialog
      title={of ? `Change ${of.name}` : "Add an area"}
      word={of ? "Change" : "Add"}
      said="The area is kept."
      initial={{
        name: of?.name ?? "",
        privateEntries: of?.privateEntries ?? false,
        needs: of?.needs ?? [],
      }}
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
      beside={of && <RemoveArea area={of} onDone={onClose} />}
      onClose={onClose}
    >
      {(form) => (
        <>
          <TextInput label="Name" required data-autofocus {...form.getInputProps("name")} />
          <Checkbox
            label="Entries are private: people below edit see only what they made themselves"
            {...form.getInputProps("privateEntries", { type: "checkbox" })}
          />
          <Needs form={form} others={areas.filter((area) => area !== of?.name)} />
        </>
      )}
    </FormDialog>
  );
}

type Words = { name: string; privateEntries: boolean; needs: Area["needs"] };

function Needs({ form, others }: { form: Form<Words>; others: string[] }) {
  const { needs } = form.values;
  const free = others.filter((area) => !needs.some((need) => need.area === area));
  return (
    <>
      {needs.map((need, index) => (
        <Group key={need.area} align="end" wrap="nowrap">
          <Select
            label={`Needs in ${need.area} at least`}
            data={levels}
            allowDeselect={false}
            {...form.getInputProps(`needs.${index}.level`)}
          />
          <Button
            variant="default"
            aria-label={`Needs nothing in ${need.area}`}
            onClick={() => form.removeListItem("needs", index)}
          >
            Leave out
          </Button>
        </Group>
      ))}
      {free.length > 0 && (
        <Select
          label="Needs something in"
          description="Whoever sees this area is to have at least that level there; roles that lack it are warned about."
          placeholder={needs.length > 0 ? "Another area" : "Nothing else"}
          data={free}
          value={null}
          onChange={(area) => area && form.insertListItem("needs", { area, level: "view" })}
        />
      )}
    </>
  );
}

function RemoveArea({ area, onDone }: { area: Area; onDone: () => void }) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const remove = useMutation({
    mutationFn: () => take(api.DELETE(`${path}/{name}`, { params: { path: { workspace, name: area.id } } })),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      onDone();
    },
  });
  return (
    <>
      <Button color="alarm" variant="outline" loading={remove.isPending} onClick={() => remove.mutate()}>
        Remove the area
      </Button>
      <Refusal of={remove.error} />
    </>
  );
}
