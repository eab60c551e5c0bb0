import { Button, Group, List, Modal, Radio, Stack, Text, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Person, Refused, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { dayText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/people/{person}/departure";

/** Shows what somebody will lose, and ends their access now or after a day. */
export function EndDialog(props: { person: Person; opened: boolean; onClose: () => void }) {
  const { person, opened, onClose } = props;
  const { workspace, today } = useWorkspace();
  const queries = useQueryClient();
  const [when, setWhen] = useState("now");
  const [day, setDay] = useState(today);
  const on = when === "now" ? null : day;
  const call = { params: { path: { workspace, person: person.id } }, body: { on } };
  const plan = useQuery({
    queryKey: [workspace, "plan", person.id, person.version, on],
    queryFn: () => take(api.POST(`${path}/plan`, call)),
    enabled: opened,
  });
  const end = useMutation({
    mutationFn: () => take(api.POST(path, { ...call, headers: { "If-Match": `"${person.version}"` } })),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      onClose();
    },
  });
  const problem = plan.data?.problem;
  return (
    <Modal
      opened={opened}
      onClose={onClose}
      title={<strong>End the access of {person.name}</strong>}
      size="lg"
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack>
        <Radio.Group label="When" value={when} onChange={setWhen}>
          <Stack gap={8} mt={6}>
            <Radio value="now" label="Now: at their very next step they are out" />
            <Radio value="day" label="After a last day" />
          </Stack>
        </Radio.Group>
        {when === "day" && (
          <TextInput
            type="date"
            label="Last day, inclusive"
            min={today}
            value={day}
            onChange={(event) => setDay(event.currentTarget.value)}
          />
        )}
        {problem && <Refusal of={new Refused(problem)} />}
        <Refusal of={end.error ?? plan.error} />
        {plan.data && !problem && (
          <>
            <Lines title={`${person.name} loses`} lines={plan.data.losses} />
            <Lines title="Untouched" lines={plan.data.stays} />
          </>
        )}
        <Group justify="end">
          <Button variant="default" onClick={onClose}>
            Keep as it is
          </Button>
          <Button
            color="alarm"
            disabled={!plan.data || !!problem}
            loading={end.isPending}
            onClick={() => end.mutate()}
          >
            {on
              ? `End the access of ${person.name} after ${dayText(on)}`
              : `End the access of ${person.name} now`}
          </Button>
        </Group>
      </Stack>
    </Modal>
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
