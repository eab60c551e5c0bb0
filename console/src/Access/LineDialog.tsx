import { Button, Checkbox, Group, Select, Text } from "@mantine/core";
import { type AccessLine, api, type Difference, type Off, type Path, take } from "../api";
import { DayField } from "../ui/DayField";
import { FormDialog } from "../ui/FormDialog";
import { dayText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { Paths } from "./Paths";

const grantPath = "/api/v1/workspaces/{workspace}/grants/{id}";
const offPath = "/api/v1/workspaces/{workspace}/resources/{name}/off";

/** Changing or taking what a grant gives, or switching a person or their organisation off. */
type Step =
  | { what: "change"; grant: Path; role: string; until: string | null }
  | { what: "take"; grant: Path }
  | { what: "off"; organisation?: string };

type Values = { step: Step | undefined; tell: boolean };

/** Changes or takes what somebody has at a resource; what it comes to is shown first. */
export function LineDialog(props: {
  resource: string;
  line: AccessLine;
  switchedOff: Off[];
  onClose: () => void;
}) {
  const { workspace } = useWorkspace();
  const { line } = props;
  const call = (dryRun: boolean, { step, tell }: Values): Promise<{ difference: Difference }> => {
    if (!step) throw new Error("nothing chosen");
    if (step.what === "off")
      return take(
        api.POST(offPath, {
          params: { path: { workspace, name: props.resource }, query: { dryRun } },
          body: step.organisation
            ? { person: null, organisation: step.organisation }
            : { person: line.personId, organisation: null },
        }),
      );
    const place = { path: { workspace, id: step.grant.grantId } };
    if (step.what === "take")
      return take(api.DELETE(grantPath, { params: { ...place, query: { dryRun, tell } } }));
    return take(
      api.PUT(grantPath, {
        params: { ...place, query: { dryRun } },
        headers: { "If-Match": `"${step.grant.version}"` },
        body: { role: step.role, until: step.until, tell },
      }),
    );
  };
  return (
    <FormDialog
      isStep
      title={`${line.name} at ${props.resource}`}
      isAlarming={({ step }) => step !== undefined && step.what !== "change"}
      word={({ step }) => (step ? wordOf(step, line) : "Change")}
      initial={{ step: undefined, tell: false } as Values}
      plan={(values) => (values.step ? () => call(true, values) : undefined)}
      save={(values) => call(false, values)}
      onClose={props.onClose}
    >
      {(form) => {
        const { step } = form.values;
        return (
          <>
            {line.cut && <Text>{line.cut}</Text>}
            <Paths paths={line.paths} isCut={line.cut !== ""} />
            <Steps
              line={line}
              switchedOff={props.switchedOff}
              step={step}
              onStep={(next) => form.setFieldValue("step", next)}
            />
            {step && step.what !== "off" && (
              <>
                {step.grant.through !== "member" && (
                  <Text className="soft">
                    This is given to {step.grant.throughName}: it changes for everybody there.
                  </Text>
                )}
                <Checkbox
                  label="Tell those whose access changes by mail"
                  {...form.getInputProps("tell", { type: "checkbox" })}
                />
              </>
            )}
          </>
        );
      }}
    </FormDialog>
  );
}

/** What can be done with what somebody has. */
function Steps(props: {
  line: AccessLine;
  switchedOff: Off[];
  step: Step | undefined;
  onStep: (step: Step) => void;
}) {
  const { line, step, onStep, switchedOff } = props;
  const { view, today } = useWorkspace();
  const isOff = (name: string) => switchedOff.some((one) => one.isOrganisation && one.name === name);
  return (
    <>
      {line.paths.map((path) => {
        const chosen = step?.what === "change" && step.grant === path ? step : undefined;
        const change = {
          what: "change",
          grant: path,
          role: path.role,
          until: path.until,
          ...chosen,
        } as const;
        return (
          <Group key={path.grantId} justify="space-between">
            <Text>
              {path.role}
              {path.throughName && ` through ${path.throughName}`}
              {!path.resource && ", in the whole workspace"}
            </Text>
            <Group gap="xs" align="end">
              <Select
                aria-label={`Another role in place of ${path.role}`}
                placeholder="Change to …"
                size="xs"
                data={(view?.roles ?? []).map((role) => role.name).filter((name) => name !== path.role)}
                value={chosen && chosen.role !== path.role ? chosen.role : null}
                onChange={(role) => role && onStep({ ...change, role })}
              />
              <DayField
                aria-label={`Last day of ${path.role}`}
                placeholder="no end"
                size="xs"
                min={today}
                value={(chosen ?? path).until ?? ""}
                onChange={(day) => onStep({ ...change, until: day || null })}
              />
              <Button size="xs" variant="default" onClick={() => onStep({ what: "take", grant: path })}>
                Take
              </Button>
            </Group>
          </Group>
        );
      })}
      {!switchedOff.some((one) => one.holderId === line.personId) && (
        <Button variant="default" onClick={() => onStep({ what: "off" })}>
          Switch {line.name} off here, whatever is given
        </Button>
      )}
      {line.organisation && !isOff(line.organisation) && (
        <Button variant="default" onClick={() => onStep({ what: "off", organisation: line.organisation })}>
          Switch everybody of {line.organisation} off here
        </Button>
      )}
    </>
  );
}

function wordOf(step: Step, line: AccessLine) {
  if (step.what === "off") return `Switch ${step.organisation ?? line.name} off`;
  if (step.what === "take") return `Take ${step.grant.role}`;
  if (step.role !== step.grant.role) return `Change to ${step.role}`;
  return step.until ? `End it after ${dayText(step.until)}` : "Leave it without an end";
}
