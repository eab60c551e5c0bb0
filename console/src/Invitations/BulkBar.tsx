import { Button, Text } from "@mantine/core";
import { useState } from "react";
import { api, inWorkspace, type StepsAnswer, take } from "../api";
import { FormDialog } from "../ui/FormDialog";
import { NumberField } from "../ui/NumberField";
import { numberText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";

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
  const { may } = useWorkspace();
  const [asked, setAsked] = useState<(typeof steps)[number]>();
  const [done, setDone] = useState<StepsAnswer>();
  const call = (step: string, days: number, dryRun: boolean) =>
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
  if (!chosen.all && chosen.ids.size === 0 && !done) return null;
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
      {steps
        .filter(([step]) => may(step === "approve" || step === "refuse" ? "approve" : "invite"))
        .map((step) => (
          <Button
            key={step[0]}
            size="compact-md"
            variant="default"
            disabled={!chosen.all && chosen.ids.size === 0}
            onClick={() => {
              setDone(undefined);
              setAsked(step);
            }}
          >
            {step[1]}
          </Button>
        ))}
      {done && <Outcome answer={done} />}
      {asked && (
        <FormDialog<{ days: number }, StepsAnswer, StepsAnswer>
          isStep
          title={asked[1]}
          initial={{ days: 14 }}
          plan={({ days }) =>
            () =>
              call(asked[0], days, true)
            }
          word={(_, plan) => `${asked[1]} ${plan.data ? numberText(plan.data.done) : ""}`}
          isReady={(_, plan) => !!plan.data?.done}
          save={({ days }) => call(asked[0], days, false)}
          onClose={() => setAsked(undefined)}
          onDone={(answer) => {
            setDone(answer);
            props.onChoose({ ids: new Set(), all: false });
          }}
        >
          {(form, plan) => (
            <>
              {asked[0] === "extend" && (
                <NumberField label="Days from now" min={1} max={365} {...form.getInputProps("days")} />
              )}
              {plan.data && (
                <>
                  <Text>
                    {numberText(plan.data.done)} would be {asked[2]}
                    {plan.data.refusedCount > 0 && `, ${numberText(plan.data.refusedCount)} not`}.
                  </Text>
                  <Reasons answer={plan.data} />
                </>
              )}
            </>
          )}
        </FormDialog>
      )}
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
