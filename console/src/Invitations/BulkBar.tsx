import { Button, Group, Modal, NumberInput, Stack, Text } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, inWorkspace, type StepsAnswer, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { numberText } from "../ui/words";

/** Which invitations are chosen: some by name, or all that match the list's filter. */
export type Chosen = { ids: Set<string>; all: boolean };

type Filter = { state?: string; kind?: string; search?: string; batch?: string; link?: string };

const steps = [
  ["send", "Send drafts", "sent"],
  ["resend", "Resend", "sent again with a new link"],
  ["remind", "Remind now", "reminded of"],
  ["extend", "Extend", "given more time"],
  ["approve", "Approve", "approved"],
  ["refuse", "Refuse", "refused"],
  ["revoke", "Revoke", "taken back"],
] as const;

/** The steps that can be taken with what is chosen; each says first what it would do, and then what it did. */
export function BulkBar(props: {
  workspace: string;
  filter: Filter;
  canTakeAll: boolean;
  chosen: Chosen;
  onChoose: (chosen: Chosen) => void;
}) {
  const { workspace, chosen } = props;
  const queries = useQueryClient();
  const [asked, setAsked] = useState<(typeof steps)[number]>();
  const [days, setDays] = useState(14);
  const call = (step: string, dryRun: boolean) =>
    take(
      api.POST("/api/v1/workspaces/{workspace}/invitations/steps", {
        ...inWorkspace(workspace),
        body: {
          step,
          ids: chosen.all ? null : [...chosen.ids],
          state: props.filter.state ?? null,
          kind: props.filter.kind ?? null,
          search: props.filter.search ?? null,
          batch: props.filter.batch ?? null,
          link: props.filter.link ?? null,
          days: step === "extend" ? days : null,
          dryRun,
        },
      }),
    );
  const rehearse = useMutation({ mutationFn: (step: string) => call(step, true) });
  const carryOut = useMutation({
    mutationFn: (step: string) => call(step, false),
    onSettled: () => queries.invalidateQueries({ queryKey: [workspace] }),
  });
  if (!chosen.all && chosen.ids.size === 0 && !carryOut.data) return null;
  const close = () => {
    setAsked(undefined);
    rehearse.reset();
  };
  return (
    <section className="bulk-bar" aria-label="Steps for what is chosen">
      <strong>{chosen.all ? "All that match" : `${numberText(chosen.ids.size)} chosen`}</strong>
      {props.canTakeAll && !chosen.all && (
        <Button
          variant="subtle"
          size="compact-sm"
          onClick={() => props.onChoose({ ids: new Set(), all: true })}
        >
          Choose all that match
        </Button>
      )}
      {steps.map((step) => (
        <Button
          key={step[0]}
          size="compact-md"
          variant="default"
          disabled={!chosen.all && chosen.ids.size === 0}
          onClick={() => {
            carryOut.reset();
            setAsked(step);
            rehearse.mutate(step[0]);
          }}
        >
          {step[1]}
        </Button>
      ))}
      {carryOut.data && <Outcome answer={carryOut.data} />}
      <Modal opened={asked !== undefined} onClose={close} title={asked?.[1]}>
        <Stack>
          {asked?.[0] === "extend" && (
            <NumberInput
              label="Days from now"
              min={1}
              max={365}
              value={days}
              onChange={(value) => setDays(Number(value) || 1)}
            />
          )}
          <Refusal of={rehearse.error ?? carryOut.error} />
          {rehearse.data && (
            <>
              <Text>
                {numberText(rehearse.data.done)} would be {asked?.[2]}
                {rehearse.data.refusedCount > 0 && `, ${numberText(rehearse.data.refusedCount)} not`}.
              </Text>
              <Reasons answer={rehearse.data} />
            </>
          )}
          <Group>
            <Button
              disabled={!rehearse.data?.done}
              loading={carryOut.isPending || rehearse.isPending}
              onClick={async () => {
                if (!asked) return;
                await carryOut.mutateAsync(asked[0]);
                props.onChoose({ ids: new Set(), all: false });
                close();
              }}
            >
              {asked?.[1]} {rehearse.data ? numberText(rehearse.data.done) : ""}
            </Button>
            <Button variant="default" onClick={close}>
              Keep as it is
            </Button>
          </Group>
        </Stack>
      </Modal>
    </section>
  );
}

function Outcome({ answer }: { answer: StepsAnswer }) {
  return (
    <span role="status">
      {numberText(answer.done)} done
      {answer.refusedCount > 0 && `, ${numberText(answer.refusedCount)} not`}
      {answer.left > 0 && `, ${numberText(answer.left)} left: take the step again`}
    </span>
  );
}

function Reasons({ answer }: { answer: StepsAnswer }) {
  return (
    <ul>
      {answer.refused.slice(0, 8).map((refused) => (
        <li key={refused.id}>
          {refused.address}: {refused.problem.title}
        </li>
      ))}
    </ul>
  );
}
