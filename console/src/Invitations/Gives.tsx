import { MultiSelect, Select, Stack } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { api, inWorkspace, take } from "../api";
import { useWorkspace } from "../Workspaces/useWorkspace";

export type GivesForm = { role: string; resource: string; groups: string[]; seats: string[] };

/** What an invitation gives: a role, everywhere or at one resource, groups, and seats with what is left of each. */
export function Gives(props: {
  value: GivesForm;
  onChange: (part: Partial<GivesForm>) => void;
  error?: string;
}) {
  const { workspace, view } = useWorkspace();
  const { value, onChange } = props;
  const resources = useQuery({
    queryKey: [workspace, "resources"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/resources", inWorkspace(workspace))),
  });
  const groups = useQuery({
    queryKey: [workspace, "groups"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/groups", inWorkspace(workspace))),
  });
  const pools = useQuery({
    queryKey: [workspace, "seats"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/seats", inWorkspace(workspace))),
  });
  return (
    <Stack>
      <Select
        label="Role"
        placeholder="None"
        clearable
        data={(view?.roles ?? []).map((role) => ({
          value: role.name,
          label: `${role.name}: ${role.sentence}`,
        }))}
        value={value.role || null}
        onChange={(role) => onChange({ role: role ?? "" })}
        error={props.error}
      />
      {resources.data && resources.data.items.length > 0 && (
        <Select
          label="Where the role counts"
          placeholder="In the whole workspace"
          clearable
          searchable
          data={resources.data.items.map((one) => one.name)}
          value={value.resource || null}
          onChange={(resource) => onChange({ resource: resource ?? "" })}
        />
      )}
      {groups.data && groups.data.items.length > 0 && (
        <MultiSelect
          label="Groups"
          data={groups.data.items.map((one) => one.name)}
          value={value.groups}
          onChange={(names) => onChange({ groups: names })}
        />
      )}
      {pools.data && pools.data.items.length > 0 && (
        <MultiSelect
          label="Seats, reserved until they answer"
          data={pools.data.items.map((pool) => ({
            value: pool.name,
            label: `${pool.name} (${pool.free} free)`,
          }))}
          value={value.seats}
          onChange={(names) => onChange({ seats: names })}
        />
      )}
    </Stack>
  );
}
