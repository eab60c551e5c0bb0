import { Anchor, Button, FileInput, Group, List, Text, Textarea } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, type Departure, type Reinstated, take } from "../api";
import { FormDialog } from "../ui/FormDialog";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { SimpleTable } from "../ui/SimpleTable";
import { StateWord } from "../ui/StateWord";
import { dayText, instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/departures/{departure}";
const beat = 2_000;

type Step = NonNullable<Departure["steps"]>[number];

/** The ending of one person's access, step by step, and what proves it. */
export function DeparturePage() {
  const { workspace } = useWorkspace();
  const { id = "" } = useParams({ strict: false });
  const queries = useQueryClient();
  const [byHand, setByHand] = useState<Step>();
  const [isBack, setBack] = useState(false);
  const params = { path: { workspace, departure: id } };
  const found = useQuery({
    queryKey: [workspace, "departures", id],
    queryFn: () => take(api.GET(path, { params })),
    refetchInterval: ({ state }) =>
      state.data?.state === "running" || state.data?.state === "stuck" ? beat : false,
  });
  const retry = useMutation({
    mutationFn: () => take(api.POST(`${path}/retry`, { params })),
    onSuccess: () => queries.invalidateQueries({ queryKey: [workspace, "departures"] }),
  });
  const file = useMutation({
    mutationFn: (step: Step) =>
      take(
        api.GET(`${path}/steps/{step}/file`, {
          params: { path: { workspace, departure: id, step: String(step.number) } },
        }),
      ),
    onSuccess: ({ name, content }) => {
      // Whatever it is, it is saved, and not shown: it came from somewhere.
      const link = document.createElement("a");
      link.href = `data:application/octet-stream;base64,${content}`;
      link.download = name;
      link.click();
    },
  });
  const departure = found.data;
  const open = departure?.steps?.filter((step) => step.state === "due" || step.state === "stuck") ?? [];
  const isOpen = departure?.state === "running" || departure?.state === "stuck";
  return (
    <Page
      title={departure ? `Departure of ${departure.person.name}` : "Departure"}
      actions={
        departure && (
          <>
            {isOpen && (
              <Button variant="default" loading={retry.isPending} onClick={() => retry.mutate()}>
                Try now what is due
              </Button>
            )}
            {departure.doneAt && departure.state !== "undone" && (
              <Button variant="default" onClick={() => setBack(true)}>
                Reinstate …
              </Button>
            )}
            {departure.receipt && <Receipt of={departure} receipt={departure.receipt} />}
          </>
        )
      }
    >
      <Refusal of={found.error ?? retry.error ?? file.error} />
      {departure && (
        <section className="sheet">
          <Text>
            <StateWord state={departure.state} />
            {departure.state === "stuck" &&
              `: access here has ended, and ${open.length === 1 ? "one system has" : `${open.length} systems have`} not confirmed.`}
          </Text>
          <Text size="sm" className="soft">
            <Link to="/w/$workspace/people/$id" params={{ workspace, id: departure.person.id }}>
              {departure.person.address}
            </Link>{" "}
            · decided by{" "}
            {departure.requestedBy === "the service" ? "the agreed end date" : departure.requestedBy},{" "}
            {instantText(departure.requestedAt)} ·{" "}
            {departure.on ? `last day ${dayText(departure.on)}` : "at once"}
            {departure.doneAt && ` · ended here ${instantText(departure.doneAt)}`}
            {departure.confirmedAt && ` · everything confirmed ${instantText(departure.confirmedAt)}`}
          </Text>
        </section>
      )}
      <SimpleTable
        rows={departure?.steps}
        keyOf={(step) => step.number}
        label="Steps"
        columns={[
          { head: "Step", cell: (step) => step.sentence },
          { head: "State", cell: (step) => <StateWord state={step.state} /> },
          {
            head: "What was found",
            cell: (step) => (
              <>
                {step.by ? `${step.by}: ${step.answer}` : step.answer || "–"}
                {step.file && (
                  <div>
                    <Anchor size="sm" component="button" onClick={() => file.mutate(step)}>
                      {step.file.name}
                    </Anchor>
                  </div>
                )}
                {step.since && (
                  <div className="soft">
                    due since {instantText(step.since)}
                    {step.tries > 0 && `, ${step.tries === 1 ? "1 try" : `${step.tries} tries`}`}
                  </div>
                )}
              </>
            ),
          },
          {
            head: "By hand",
            isHeadHidden: true,
            cell: (step) =>
              isOpen &&
              (step.state === "due" || step.state === "stuck") && (
                <Button size="compact-sm" variant="default" onClick={() => setByHand(step)}>
                  Confirm by hand …
                </Button>
              ),
          },
        ]}
      />
      {departure && isBack && <BackDialog departure={departure} onClose={() => setBack(false)} />}
      {departure && byHand && (
        <FormDialog
          title={`${byHand.subject}: the account of ${departure.person.name}`}
          word="Say that it is closed"
          initial={{ reason: "", file: null as File | null }}
          isReady={({ reason }) => reason.trim().length > 0}
          save={async ({ reason, file }) =>
            take(
              api.POST(`${path}/steps/{step}/confirm`, {
                params: { path: { workspace, departure: id, step: String(byHand.number) } },
                body: { reason, file: file && { name: file.name, content: await base64(file) } },
              }),
            )
          }
          said="Your word stands for it, and your reason in the receipt."
          onClose={() => setByHand(undefined)}
        >
          {(form) => (
            <>
              <Text size="sm">
                It has not confirmed that the account is closed. If you know that it is, your name and your
                reason stand for it in the receipt. It is not tried any more.
              </Text>
              <Textarea
                label="How was it made sure, and by whom?"
                autosize
                minRows={2}
                maxLength={500}
                {...form.getInputProps("reason")}
              />
              <FileInput
                label="A file that shows it, if there is one"
                description="A letter or a picture, up to 2 MiB. Its name and digest stand in the receipt."
                clearable
                {...form.getInputProps("file")}
              />
            </>
          )}
        </FormDialog>
      )}
    </Page>
  );
}

/** What is in a file, as JSON carries it. */
function base64(file: File): Promise<string> {
  return new Promise((done, fail) => {
    const reader = new FileReader();
    reader.onload = () => done(String(reader.result).replace(/^[^,]*,/, ""));
    reader.onerror = () => fail(reader.error);
    reader.readAsDataURL(file);
  });
}

/** Takes an end back that came about, after saying line by line what is as before and what is not. */
function BackDialog({ departure, onClose }: { departure: Departure; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const call = (dryRun: boolean) =>
    take(
      api.POST("/api/v1/workspaces/{workspace}/people/{person}/reinstate", {
        params: { path: { workspace, person: departure.person.id }, query: { dryRun: String(dryRun) } },
      }),
    );
  return (
    <FormDialog<object, unknown, Reinstated>
      isStep
      title={`Reinstate ${departure.person.name}`}
      word={`Reinstate ${departure.person.name}`}
      initial={{}}
      plan={() => () => call(true)}
      isReady={(_, plan) => plan.data !== undefined}
      save={() => call(false)}
      said={`${departure.person.name} is here again and is told by mail.`}
      onClose={onClose}
    >
      {(_, plan) => (
        <>
          {plan.data && (
            <>
              <Text>
                {plan.data.until
                  ? `Here again until ${dayText(plan.data.until)}.`
                  : "Here again, without an end."}
              </Text>
              <Lines title="As before" lines={plan.data.lines.filter((line) => line.isRestored)} />
              <Lines title="Not as before" lines={plan.data.lines.filter((line) => !line.isRestored)} />
            </>
          )}
        </>
      )}
    </FormDialog>
  );
}

function Lines({ title, lines }: { title: string; lines: { sentence: string }[] }) {
  return lines.length === 0 ? null : (
    <div>
      <Text fw={650}>{title}</Text>
      <List>
        {lines.map((line) => (
          <List.Item key={line.sentence}>{line.sentence}</List.Item>
        ))}
      </List>
    </div>
  );
}

/** The signed receipt as a file, and the keys to be kept with it. */
function Receipt({ of, receipt }: { of: Departure; receipt: string }) {
  const { workspace } = useWorkspace();
  return (
    <Group gap="sm">
      <Anchor
        href={`data:application/jose,${encodeURIComponent(receipt)}`}
        download={`receipt-${of.person.address}.jws`}
      >
        Save the receipt
      </Anchor>
      <Anchor href={`/w/${workspace}/receipt-keys.json`} download="receipt-keys.json">
        Save the keys
      </Anchor>
      <Link to="/w/$workspace/endings/$id/receipt" params={{ workspace, id: of.id }}>
        Print it
      </Link>
    </Group>
  );
}
