import { Button, MultiSelect, Select, Stack } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { RoleSelect } from "../Access/RoleSelect";
import { api, type Bundle, inWorkspace, take } from "../api";
import { DayField } from "../ui/DayField";
import { useWorkspace } from "../Workspaces/useWorkspace";

type RoleRow = { role: string; resource: string; until: string };
export type GivesForm = { roles: RoleRow[]; groups: string[]; seats: string[] };

const noRole: RoleRow = { role: "", resource: "", until: "" };

/** Gives nothing yet, with an empty line for a role. */
export const givesNothing: GivesForm = { roles: [noRole], groups: [], seats: [] };

/** What is given, as it is sent. */
export function bundleOf(form: GivesForm): Bundle {
  return {
    roles: form.roles
      .filter((row) => row.role)
      .map((row) => ({ role: row.role, resource: row.resource || null, until: row.until || null })),
    groups: form.groups,
    seats: form.seats,
  };
}

/** What something gives, as it can be changed. */
export function givenBy(gives?: Bundle): GivesForm {
  const roles = (gives?.roles ?? []).map((given) => ({
    role: given.role,
    resource: given.resource ?? "",
    until: given.until ?? "",
  }));
  return {
    roles: roles.length > 0 ? roles : [noRole],
    groups: gives?.groups ?? [],
    seats: gives?.seats ?? [],
  };
}

/** What an invitation gives: roles, each everywhere or at one resource, groups, and seats with what is left of each. */
export function Gives(props: {
  value: GivesForm;
  onChange: (part: Partial<GivesForm>) => void;
  error?: string;
  /** Join links reserve no seats. */
  withoutSeats?: boolean;
}) {
  const { workspace } = useWorkspace();
  const { value, onChange } = props;
  const groups = useQuery({
    queryKey: [workspace, "groups"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/groups", inWorkspace(workspace))),
  });
  const pools = useQuery({
    queryKey: [workspace, "seats"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/seats", inWorkspace(workspace))),
    enabled: !props.withoutSeats,
  });
  return (
    <Stack>
      {value.roles.map((row, n) => (
        <RoleFields
          // The lines have no other name than their place.
          // biome-ignore lint/suspicious/noArrayIndexKey: lines are only added at the end and taken out one by one
          key={n}
          number={n + 1}
          value={row}
          error={n === 0 ? props.error : undefined}
          onChange={(part) =>
            onChange({ roles: value.roles.map((one) => (one === row ? { ...one, ...part } : one)) })
          }
          onRemove={
            value.roles.length > 1
              ? () => onChange({ roles: value.roles.filter((one) => one !== row) })
              : undefined
          }
        />
      ))}
      {value.roles.every((row) => row.role) && (
        <Button
          variant="subtle"
          size="compact-sm"
          style={{ alignSelf: "start" }}
          onClick={() => onChange({ roles: [...value.roles, { ...noRole }] })}
        >
          Give another role as well
        </Button>
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

function RoleFields(props: {
  number: number;
  value: RoleRow;
  onChange: (part: Partial<RoleRow>) => void;
  onRemove?: () => void;
  error?: string;
}) {
  const { workspace, today } = useWorkspace();
  const { value, onChange } = props;
  const which = props.number === 1 ? "" : ` ${props.number}`;
  const resources = useQuery({
    queryKey: [workspace, "resources"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/resources", inWorkspace(workspace))),
  });
  return (
    <fieldset className="plain-set">
      <legend className="visually-hidden">{`Role${which}`}</legend>
      <RoleSelect
        label={`Role${which}`}
        clearable
        value={value.role}
        onChange={(role) => onChange({ role })}
        atResource={value.resource !== ""}
        error={props.error}
      />
      {value.role && (
        <div className="beside">
          <Select
            label={`Where${which}`}
            placeholder="In the whole workspace"
            clearable
            searchable
            data={(resources.data?.items ?? []).map((one) => one.name)}
            value={value.resource || null}
            onChange={(resource) => onChange({ resource: resource ?? "" })}
          />
          <DayField
            label={`Until${which}`}
            min={today}
            value={value.until}
            onChange={(until) => onChange({ until })}
          />
        </div>
      )}
      {props.onRemove && (
        <Button variant="subtle" size="compact-sm" mt={8} onClick={props.onRemove}>
          Leave this role out
        </Button>
      )}
    </fieldset>
  );
}
