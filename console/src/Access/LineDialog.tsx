import { Button, Checkbox, Group, Modal, Select, Stack, Text, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type AccessLine, api, type Off, type Path, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { dayText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { Difference } from "./Difference";
import { Paths } from "./Paths";

const grantPath = "/api/v1/workspaces/{workspace}/grants/{id}";
const offPath = "/api/v1/workspaces/{workspace}/resources/{resource}/off";

/** Changing or taking what a grant gives, or switching a person or their organisation off. */
type Step =
  | { what: "change"; grant: Path; role: string; until: string | null }
  | { what: "take"; grant: Path }
  | { what: "off"; organisation?: string };

/** Changes or takes what somebody has at a resource; what it comes to is shown first. */
export function LineDialog(props: {
  resource: string;
  line: AccessLine;
  switchedOff: Off[];
  onClose: () => void;
}) {
  const { workspace, view, today } = useWorkspace();
  const queries = useQueryClient();
  const { line } = props;
  const isOff = (name: string) => props.switchedOff.some((one) => one.isOrganisation && one.name === name);
  const [step, setStep] = useState<Step>();
  const [tell, setTell] = useState(false);
  const run = async (dryRun: boolean) => {
    if (!step) throw new Error("nothing chosen");
    if (step.what === "off")
      return (
        await take(
          api.POST(offPath, {
            params: { path: { workspace, resource: props.resource }, query: { dryRun } },
            body: step.organisation
              ? { person: null, organisation: step.organisation }
              : { person: line.personId, organisation: null },
          }),
        )
      ).difference;
    const place = { path: { workspace, id: step.grant.grantId } };
    if (step.what === "take")
      return (await take(api.DELETE(grantPath, { params: { ...place, query: { dryRun, tell } } })))
        .difference;
    const body = { role: step.role, until: step.until, tell };
    return (await take(api.PUT(grantPath, { params: { ...place, query: { dryRun } }, body }))).difference;
  };
  const plan = useQuery({
    queryKey: [workspace, "line", line.personId, step, tell],
    queryFn: () => run(true),
    enabled: step !== undefined,
    retry: false,
  });
  const change = useMutation({
    mutationFn: () => run(false),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      props.onClose();
    },
  });
  return (
    <Modal
      opened
      onClose={props.onClose}
      size="lg"
      title={
        <strong>
          {line.name} at {props.resource}
        </strong>
      }
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack>
        {line.cut && <Text>{line.cut}</Text>}
        <Paths paths={line.paths} isCut={line.cut !== ""} />
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
                  onChange={(role) => role && setStep({ ...change, role })}
                />
                <TextInput
                  aria-label={`Last day of ${path.role}`}
                  type="date"
                  size="xs"
                  min={today}
                  value={(chosen ?? path).until ?? ""}
                  onChange={(event) => setStep({ ...change, until: event.currentTarget.value || null })}
                />
                <Button size="xs" variant="default" onClick={() => setStep({ what: "take", grant: path })}>
                  Take
                </Button>
              </Group>
            </Group>
          );
        })}
        {!props.switchedOff.some((one) => one.holderId === line.personId) && (
          <Button variant="default" onClick={() => setStep({ what: "off" })}>
            Switch {line.name} off here, whatever is given
          </Button>
        )}
        {line.organisation && !isOff(line.organisation) && (
          <Button variant="default" onClick={() => setStep({ what: "off", organisation: line.organisation })}>
            Switch everybody of {line.organisation} off here
          </Button>
        )}
        {step && (
          <>
            {step.what !== "off" && step.grant.through !== "member" && (
              <Text className="soft">
                This is given to {step.grant.throughName}: it changes for everybody there.
              </Text>
            )}
            {plan.data && <Difference of={plan.data} workspace={workspace} />}
            {step.what !== "off" && (
              <Checkbox
                label="Tell those whose access changes by mail"
                checked={tell}
                onChange={(event) => setTell(event.currentTarget.checked)}
              />
            )}
            <Refusal of={change.error ?? plan.error} />
            <Group justify="end">
              <Button variant="default" onClick={props.onClose}>
                Keep as it is
              </Button>
              <Button
                color={step.what === "change" ? undefined : "alarm"}
                disabled={!plan.data}
                loading={change.isPending}
                onClick={() => change.mutate()}
              >
                {wordOf(step, line)}
              </Button>
            </Group>
          </>
        )}
      </Stack>
    </Modal>
  );
}

function wordOf(step: Step, line: AccessLine) {
  if (step.what === "off") return `Switch ${step.organisation ?? line.name} off`;
  if (step.what === "take") return `Take ${step.grant.role}`;
  if (step.role !== step.grant.role) return `Change to ${step.role}`;
  return step.until ? `End it after ${dayText(step.until)}` : "Leave it without an end";
}
