import { Button, Group, Select, Text, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Lane, type LeftOver, take } from "../api";
import { DayField } from "../ui/DayField";
import { FormDialog } from "../ui/FormDialog";
import { Refusal } from "../ui/Refusal";
import { ShowMore } from "../ui/ShowMore";
import { SimpleTable } from "../ui/SimpleTable";
import { StateWord } from "../ui/StateWord";
import { usePages } from "../ui/usePages";
import { dayText, instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/connections/{connection}";

/** What a connected system really holds beside what it ought to, and what is to become of what nobody ought to have. */
export function LeftOverSheet({ lane, connection }: { lane: Lane; connection: string }) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const [open, setOpen] = useState<LeftOver>();
  const params = { path: { workspace, connection } };
  const found = usePages([workspace, "carried", connection, "left-overs"], (cursor) =>
    take(api.GET(`${path}/left-overs`, { params: { ...params, query: { cursor } } })),
  );
  const sweep = useMutation({
    mutationFn: () => take(api.POST(`${path}/sweep`, { params })),
    onSuccess: (swept) => {
      queries.invalidateQueries({ queryKey: [workspace] });
      notifications.show({
        message: `${swept.name} holds ${swept.accounts} accounts: ${swept.otherwiseTotal} otherwise than they ought to be, ${swept.leftOverTotal} left over.`,
      });
    },
  });
  return (
    <section className="sheet" aria-labelledby="left-over">
      <Group justify="space-between">
        <h2 className="section-title" id="left-over">
          What it really holds
        </h2>
        <Button size="xs" variant="default" loading={sweep.isPending} onClick={() => sweep.mutate()}>
          Sweep now
        </Button>
      </Group>
      <Refusal of={sweep.error ?? found.error} />
      <Text size="sm" className="soft">
        {lane.sweptAt
          ? `Read whole on ${instantText(lane.sweptAt)}, and again every day: what was changed over there is put right by itself.`
          : "It was not read whole as yet; that is done every day."}
      </Text>
      {lane.sweepAnswer && (
        <Text size="sm" c="var(--aboard-bad)">
          The last reading came to nothing: {lane.sweepAnswer}
        </Text>
      )}
      {lane.sweptAt && (
        <SimpleTable
          isBare
          rows={found.items}
          keyOf={(one) => one.key}
          nothing="Nothing is left over: every account there belongs to somebody who is to have it."
          columns={[
            {
              head: "Account nobody ought to have",
              cell: (one) => (
                <>
                  {one.signInName}
                  <div className="soft">
                    {one.name && `${one.name}, `}found {instantText(one.foundAt)}
                  </div>
                </>
              ),
            },
            {
              head: "State",
              cell: (one) => (
                <>
                  <StateWord state={one.state} />
                  {one.until && (
                    <div className="soft">
                      until {dayText(one.until)}: {one.reason} ({one.by})
                    </div>
                  )}
                </>
              ),
            },
            {
              head: "What becomes of it",
              isHeadHidden: true,
              cell: (one) => (
                <Button size="compact-sm" variant="default" onClick={() => setOpen(one)}>
                  Decide …
                </Button>
              ),
            },
          ]}
        />
      )}
      <ShowMore of={found} />
      {open && <Decide connection={connection} one={open} onClose={() => setOpen(undefined)} />}
    </section>
  );
}

function Decide(props: { connection: string; one: LeftOver; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const { one } = props;
  const initial = { decision: "remove", person: "", reason: "", until: "" };
  const words: Record<string, string> = {
    remove: "Remove it there",
    adopt: "It is theirs",
    leave: "Leave it",
  };
  return (
    <FormDialog
      title={`${one.signInName} there`}
      word={(values) => words[values.decision] ?? ""}
      isAlarming={(values) => values.decision === "remove"}
      initial={initial}
      isReady={(values) =>
        values.decision === "remove" ||
        (values.decision === "adopt" ? values.person !== "" : values.reason !== "" && values.until !== "")
      }
      save={(values) =>
        take(
          api.POST(`${path}/left-overs`, {
            params: { path: { workspace, connection: props.connection } },
            body: {
              keys: [one.key],
              decision: values.decision,
              person: values.decision === "adopt" ? values.person : null,
              reason: values.decision === "leave" ? values.reason : null,
              until: values.decision === "leave" ? values.until : null,
            },
          }),
        )
      }
      left={(answer) => answer.refused.map((no) => no.problem)}
      said="It is done."
      onClose={props.onClose}
    >
      {(form) => (
        <>
          <Select
            label="What becomes of it"
            allowDeselect={false}
            data={[
              { value: "remove", label: "It is removed there, and asked for again" },
              { value: "adopt", label: "It is somebody's" },
              { value: "leave", label: "It stays as it is, until a day" },
            ]}
            {...form.getInputProps("decision")}
          />
          {form.values.decision === "adopt" && (
            <TextInput
              label="Whose"
              description="Their address here; from then on it follows what they may do here"
              {...form.getInputProps("person")}
            />
          )}
          {form.values.decision === "leave" && (
            <>
              <TextInput label="Why" {...form.getInputProps("reason")} />
              <DayField
                label="Until, that day included"
                description="It is listed again after it"
                {...form.getInputProps("until")}
              />
            </>
          )}
        </>
      )}
    </FormDialog>
  );
}
