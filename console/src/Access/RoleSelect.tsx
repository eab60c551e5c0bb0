import { Select } from "@mantine/core";
import { useWorkspace } from "../Workspaces/useWorkspace";

/** Chooses a role: its sentence stands in the choice, its name alone in the field. */
export function RoleSelect(props: {
  label: string;
  value?: string;
  onChange: (role: string) => void;
  /** What its sentence says of the whole workspace would mislead where the role is given at one resource. */
  atResource?: boolean;
  clearable?: boolean;
  error?: string;
}) {
  const { view } = useWorkspace();
  const sentences = new Map((view?.roles ?? []).map((role) => [role.name, role.sentence]));
  return (
    <Select
      label={props.label}
      placeholder="None"
      clearable={props.clearable}
      allowDeselect={props.clearable}
      data={[...sentences.keys()]}
      value={props.value || null}
      onChange={(role) => props.onChange(role ?? "")}
      renderOption={({ option }) =>
        props.atResource ? (
          option.value
        ) : (
          <span>
            <strong>{option.value}</strong>: {sentences.get(option.value)}
          </span>
        )
      }
      error={props.error}
    />
  );
}
