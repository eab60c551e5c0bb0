import { List, Radio, Stack, Text } from "@mantine/core";
import { api, type Person, Refused, take } from "../api";
import { DayField } from "../ui/DayField";
import { FormDialog } from "../ui/FormDialog";
import { Refusal } from "../ui/Refusal";
import { dayText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/people/{person}/departure";

/** Shows what somebody will lose, and ends their access now or after a day. */
export function EndDialog({ person, onClose }: { person: Person; onClose: () => void }) {
  const { workspace, today } = useWorkspace();
  const initial = { when: "now", day: today };
  const callOf = ({ when, day }: typeof initial) => ({
    params: { path: { workspace, person: person.id } },
    body: { on: when === "now" ? null : day },
  });
  return (
    <FormDialog
      isStep
      isAlarming
      title={`End the access of ${person.name}`}
      word={({ when, day }) =>
        `End the access of ${person.name} ${when === "now" ? "now" : `after ${day ? dayText(day) : "…"}`}`
      }
      initial={initial}
      plan={(values) =>
        values.when === "day" && !values.day
          ? undefined
          : () => take(api.POST(`${path}/plan`, callOf(values)))
      }
      about={person.version}
      isReady={(_, plan) => plan.data !== undefined && !plan.data.problem}
      save={(values) =>
        take(api.POST(path, { ...callOf(values), headers: { "If-Match": `"${person.version}"` } }))
      }
      onClose={onClose}
    >
      {(form, plan) => (
        <>
          <Radio.Group label="When" {...form.getInputProps("when")}>
            <Stack gap={8} mt={6}>
              <Radio value="now" label="Now: at their very next step they are out" />
              <Radio value="day" label="After a last day" />
            </Stack>
          </Radio.Group>
          {form.values.when === "day" && (
            <DayField label="Last day, inclusive" min={today} {...form.getInputProps("day")} />
          )}
          {plan.data?.problem && <Refusal of={new Refused(plan.data.problem)} isForetold />}
          {plan.data && !plan.data.problem && (
            <>
              <Lines title={`${person.name} loses`} lines={plan.data.losses} />
              <Lines title="Untouched" lines={plan.data.stays} />
            </>
          )}
        </>
      )}
    </FormDialog>
  );
}

function Lines({ title, lines }: { title: string; lines: string[] }) {
  return (
    <div>
      <Text fw={650}>{title}</Text>
      <List>
        {lines.map((line) => (
          <List.Item key={line}>{line}</List.Item>
        ))}
      </List>
    </div>
  );
}
