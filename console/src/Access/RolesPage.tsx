import { Alert, Button, Checkbox, Group, Select, Skeleton, Table, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, inWorkspace, type Role, type RoleChange, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { CsvLink } from "../ui/CsvLink";
import { FormDialog } from "../ui/FormDialog";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccessNav } from "./AccessNav";
import { LevelWord } from "./LevelWord";

const path = "/api/v1/workspaces/{workspace}/roles";
const levels = ["none", "view", "contribute", "edit", "manage"];

/** All roles side by side: a line for each area and each duty, and where they differ. */
export function RolesPage() {
  const { workspace, may } = useWorkspace();
  const [edited, setEdited] = useState<Role | "new">();
  const [onlyDiffering, setOnly] = useState(false);
  const matrix = useQuery({
    queryKey: [workspace, "roles", "matrix"],
    queryFn: () => take(api.GET(`${path}/compare`, inWorkspace(workspace))),
  });
  const lines = (matrix.data?.lines ?? []).filter((line) => !onlyDiffering || line.differs);
  return (
    <Page
      title="Roles"
      actions={
        <>
          <CsvLink workspace={workspace} list="roles?format=csv" />
          <Allowed duty="access">
            <Button onClick={() => setEdited("new")}>Make a role</Button>
          </Allowed>
        </>
      }
    >
      <AccessNav />
      <Refusal of={matrix.error} />
      {matrix.isPending && <Skeleton height={300} />}
      {matrix.data && (
        <>
          <Checkbox
            label="Only lines where roles differ"
            checked={onlyDiffering}
            onChange={(event) => setOnly(event.currentTarget.checked)}
          />
          <div className="sheet table-holder">
            <Table verticalSpacing={6} className="matrix">
              <Table.Caption>
                A role gives a level in each area, and duties to staff who hold it in the whole workspace.
              </Table.Caption>
              <Table.Thead>
                <Table.Tr>
                  <Table.Th>
                    <span className="visually-hidden">Area or duty</span>
                  </Table.Th>
                  {matrix.data.roles.map((role) => (
                    <Table.Th key={role.id} scope="col" title={role.sentence}>
                      {role.isBuiltIn || !may("access") ? (
                        role.name
                      ) : (
                        <Button
                          size="compact-md"
                          px={0}
                          variant="transparent"
                          onClick={() => setEdited(role)}
                        >
                          {role.name}
                        </Button>
                      )}
                      <div className="soft small">{role.holders} given</div>
                    </Table.Th>
                  ))}
                </Table.Tr>
              </Table.Thead>
              <Table.Tbody>
                {lines.map((line) => (
                  <Table.Tr key={(line.isDuty ? "duty " : "") + line.what}>
                    <Table.Th scope="row">
                      {line.isDuty && <span className="soft">duty </span>}
                      {line.what}
                    </Table.Th>
                    {line.cells.map((cell, i) => (
                      <Table.Td key={matrix.data.roles[i]?.id}>
                        {line.isDuty ? (
                          cell === "yes" ? (
                            "yes"
                          ) : (
                            <span className="soft">–</span>
                          )
                        ) : (
                          <LevelWord level={cell} />
                        )}
                      </Table.Td>
                    ))}
                  </Table.Tr>
                ))}
              </Table.Tbody>
            </Table>
          </div>
          <dl className="sheet facts">
            {matrix.data.roles.map((role) => (
              <RoleSentence key={role.id} role={role} />
            ))}
          </dl>
        </>
      )}
      {edited && (
        <RoleDialog role={edited === "new" ? undefined : edited} onClose={() => setEdited(undefined)} />
      )}
    </Page>
  );
}

function RoleSentence({ role }: { role: Role }) {
  return (
    <>
      <dt>{role.name}</dt>
      <dd>
        {role.sentence}
        {role.isBuiltIn && <span className="soft"> In every workspace.</span>}
      </dd>
    </>
  );
}

/** Makes or changes a role: what it would change, and what it would miss, is said while one edits. */
function RoleDialog({ role, onClose }: { role?: Role; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const initial = {
    name: role?.name ?? "",
    sentence: role?.sentence ?? "",
    everywhere: role?.everywhere ?? "none",
    areas: Object.fromEntries((role?.areas ?? []).map((one) => [one.area, one.level])) as Record<
      string,
      string
    >,
    duties: role?.duties ?? ([] as string[]),
  };
  const areas = useQuery({
    queryKey: [workspace, "areas"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/areas", inWorkspace(workspace))),
  });
  const call = (dryRun: boolean, of: typeof initial) => {
    const body = {
      ...of,
      areas: Object.entries(of.areas).map(([area, level]) => ({ area, level })),
    };
    return take(
      role
        ? api.PUT(`${path}/{name}`, {
            params: { path: { workspace, name: role.id }, query: { dryRun } },
            body,
            headers: { "If-Match": `"${role.version}"` },
          })
        : api.POST(path, { params: { path: { workspace }, query: { dryRun } }, body }),
    );
  };
  return (
    <FormDialog
      size="xl"
      title={role ? `Change the role ${role.name}` : "Make a role"}
      word={(form) => (role ? `Change ${form.name}` : "Make the role")}
      initial={initial}
      plan={(form) => (form.name !== "" && form.sentence !== "" ? () => call(true, form) : undefined)}
      save={(form) => call(false, form)}
      beside={role && <RemoveRole role={role} onDone={onClose} />}
      onClose={onClose}
    >
      {(form, plan) => (
        <>
          <TextInput label="Name" required data-autofocus {...form.getInputProps("name")} />
          <TextInput
            label="What its holder can do, in one plain sentence"
            description="So that it fits behind “You can”: Enter deck bookings and see your own."
            required
            maxLength={200}
            {...form.getInputProps("sentence")}
          />
          <div className="role-levels">
            {(areas.data?.items ?? []).map((area) => (
              <Select
                key={area.id}
                label={area.name}
                data={levels}
                value={form.values.areas[area.name] ?? form.values.everywhere}
                onChange={(level) =>
                  form.setFieldValue("areas", { ...form.values.areas, [area.name]: level ?? "none" })
                }
                allowDeselect={false}
              />
            ))}
            <Select
              label="Everything else"
              data={levels}
              allowDeselect={false}
              {...form.getInputProps("everywhere")}
            />
          </div>
          <Checkbox.Group
            label="Duties"
            description="They count for staff who hold the role in the whole workspace."
            {...form.getInputProps("duties")}
          >
            <Group mt={6}>
              {["invite", "approve", "people", "access", "seats", "claims", "record", "settings"].map(
                (duty) => (
                  <Checkbox key={duty} value={duty} label={duty} />
                ),
              )}
            </Group>
          </Checkbox.Group>
          {plan.data && plan.data.gaps.length > 0 && (
            <Gaps
              of={plan.data}
              onChoose={(then) =>
                form.setFieldValue("areas", Object.fromEntries(then.map((one) => [one.area, one.level])))
              }
            />
          )}
        </>
      )}
    </FormDialog>
  );
}

/** Areas of a role that need others, and the two ways out. */
function Gaps({ of, onChoose }: { of: RoleChange; onChoose: (then: RoleChange["raised"]) => void }) {
  return (
    <Alert color="brass" variant="light" title="Some areas need others">
      <ul>
        {of.gaps.map((gap) => (
          <li key={gap.area + gap.needs}>
            {gap.area} needs {gap.atLeast} in {gap.needs}; the role has {gap.has} there.
          </li>
        ))}
      </ul>
      <Group>
        <Button size="xs" variant="default" onClick={() => onChoose(of.raised)}>
          Give what is needed
        </Button>
        <Button size="xs" variant="default" onClick={() => onChoose(of.lowered)}>
          Leave those areas out
        </Button>
      </Group>
    </Alert>
  );
}

function RemoveRole({ role, onDone }: { role: Role; onDone: () => void }) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const remove = useMutation({
    mutationFn: () => take(api.DELETE(`${path}/{name}`, { params: { path: { workspace, name: role.id } } })),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      onDone();
    },
  });
  return (
    <div>
      <Refusal of={remove.error} />
      <Button
        variant="default"
        disabled={role.holders > 0}
        title={role.holders > 0 ? "It is given to somebody." : undefined}
        loading={remove.isPending}
        onClick={() => remove.mutate()}
      >
        Remove the role
      </Button>
    </div>
  );
}
