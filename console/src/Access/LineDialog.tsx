import { Button, Checkbox, Group, Modal, Select, Stack, Text } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type AccessLine, api, type Path, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { Difference } from "./Difference";
import { Paths } from "./Paths";

const grantPath = "/api/v1/workspaces/{workspace}/grants/{id}";
const offPath = "/api/v1/workspaces/{workspace}/resources/{resource}/off";

type Step = { grant: Path; role?: string } | "off";

/** Changes or takes what somebody has at a resource; what it comes to is shown first. */
export function LineDialog(props: { resource: string; line: AccessLine; onClose: () => void }) {
  const { workspace, view } = useWorkspace();
  const queries = useQueryClient();
  const { line } = props;
  const [step, setStep] = useState<Step>();
  const [tell, setTell] = useState(false);
  const run = async (dryRun: boolean) => {
    if (step === "off")
      return (
        await take(
          api.POST(offPath, {
            params: { path: { workspace, resource: props.resource }, query: { dryRun } },
            body: { person: line.personId, organisation: null },
          }),
        )
      ).difference;
    if (!step) throw new Error("nothing chosen");
    const place = { path: { workspace, id: step.grant.grantId } };
    return step.role
      ? (
          await take(
            api.PUT(grantPath, {
              params: { ...place, query: { dryRun } },
              body: { role: step.role, until: step.grant.until, tell },
            }),
          )
        ).difference
      : (await take(api.DELETE(grantPath, { params: { ...place, query: { dryRun, tell } } }))).difference;
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
        <Paths paths={line.paths} />
        {line.paths.map((path) => (
          <Group key={path.grantId} justify="space-between">
            <Text>
              {path.role}
              {path.throughName && ` through ${path.throughName}`}
              {!path.resource && ", in the whole workspace"}
            </Text>
            <Group gap="xs">
              <Select
                aria-label={`Another role in place of ${path.role}`}
                placeholder="Change to …"
                size="xs"
                data={(view?.roles ?? []).map((role) => role.name).filter((name) => name !== path.role)}
                value={typeof step === "object" && step.grant === path ? (step.role ?? null) : null}
                onChange={(role) => role && setStep({ grant: path, role })}
              />
              <Button size="xs" variant="default" onClick={() => setStep({ grant: path })}>
                Take
              </Button>
            </Group>
          </Group>
        ))}
        <Button variant="default" onClick={() => setStep("off")}>
          Switch {line.name} off here, whatever is given
        </Button>
        {step && (
          <>
            {typeof step === "object" && step.grant.through !== "member" && (
              <Text className="soft">
                This is given to {step.grant.throughName}: it changes for everybody there.
              </Text>
            )}
            {plan.data && <Difference of={plan.data} workspace={workspace} />}
            {step !== "off" && (
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
                color={step === "off" || !step.role ? "alarm" : undefined}
                disabled={!plan.data}
                loading={change.isPending}
                onClick={() => change.mutate()}
              >
                {step === "off"
                  ? `Switch ${line.name} off`
                  : step.role
                    ? `Change to ${step.role}`
                    : `Take ${step.grant.role}`}
              </Button>
            </Group>
          </>
        )}
      </Stack>
    </Modal>
  );
}
