import { MultiSelect } from "@mantine/core";
import { PersonField } from "../Access/PersonField";
import { api, inWorkspace, type Person, take } from "../api";
import { FormDialog } from "../ui/FormDialog";
import { useWorkspace } from "../Workspaces/useWorkspace";

/** Hands what somebody owns to somebody else, all or some of it, in one step. */
export function HandOverDialog(props: { person: Person; owns: string[]; onClose: () => void }) {
  const { person, owns } = props;
  const { workspace } = useWorkspace();
  return (
    <FormDialog
      title={`Hand over what ${person.name} owns`}
      word="Hand over"
      said="It is handed over."
      initial={{ to: "", resources: owns }}
      isReady={({ to, resources }) => to !== "" && resources.length > 0}
      save={({ to, resources }) =>
        take(
          api.POST("/api/v1/workspaces/{workspace}/resources/handover", {
            ...inWorkspace(workspace),
            body: { from: person.id, to, resources },
          }),
        )
      }
      onClose={props.onClose}
    >
      {(form) => (
        <>
          <MultiSelect label="What" data={owns} {...form.getInputProps("resources")} />
          <PersonField label="To whom" {...form.getInputProps("to")} />
        </>
      )}
    </FormDialog>
  );
}
