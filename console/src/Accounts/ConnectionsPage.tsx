import { Button, Group, Stack, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api, type Connection, inWorkspace, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { CsvLink } from "../ui/CsvLink";
import { FormDialog } from "../ui/FormDialog";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccountsNav } from "./AccountsNav";
import { ConnectionDialog } from "./ConnectionDialog";
import { isRead } from "./connectionWords";

const path = "/api/v1/workspaces/{workspace}/connections";

type Step = "add" | { change: Connection } | { remove: Connection };

/** Outside systems that people are read from, or access is carried out to. */
export function ConnectionsPage() {
  const { workspace } = useWorkspace();
  const [step, setStep] = useState<Step>();
  const connections = useQuery({
    queryKey: [workspace, "connections"],
    queryFn: () => take(api.GET(path, inWorkspace(workspace))),
  });
  const close = () => setStep(undefined);
  return (
    <Page
      title="Connections"
      actions={
        <>
          <CsvLink workspace={workspace} list="connections?format=csv" />
          <Allowed duty="settings">
            <Button onClick={() => setStep("add")}>Add a connection</Button>
          </Allowed>
        </>
      }
    >
      <AccountsNav />
      <Text className="soft">
        Outside systems. People are read from directories and lists, and nothing changes here until somebody
        says so; access is carried out to applications, where accounts come and go with what people may do
        here.
      </Text>
      <Refusal of={connections.error} />
      {connections.data?.items.length === 0 && (
        <p className="sheet">
          There is no connection. Add the export of a directory (LDIF), a list (CSV, XLSX), or a directory
          itself.
        </p>
      )}
      {connections.data?.items.map((connection) => (
        <Sheet
          key={connection.id}
          connection={connection}
          workspace={workspace}
          onChange={() => setStep({ change: connection })}
          onRemove={() => setStep({ remove: connection })}
        />
      ))}
      {step === "add" && <ConnectionDialog onClose={close} />}
      {step && step !== "add" && "change" in step && (
        <ConnectionDialog connection={step.change} onClose={close} />
      )}
      {step && step !== "add" && "remove" in step && (
        <FormDialog
          title={`Remove ${step.remove.name}`}
          word="Remove it"
          isAlarming
          initial={{}}
          save={() =>
            take(
              api.DELETE(`${path}/{connection}`, {
                params: { path: { workspace, connection: step.remove.id } },
              }),
            )
          }
          said={`${step.remove.name} is removed.`}
          onClose={close}
        >
          {() => (
            <Text size="sm">
              It is not read any more, and what was decided is forgotten. Everybody who was joined or brought
              in by it stays as they are.
            </Text>
          )}
        </FormDialog>
      )}
    </Page>
  );
}

function Sheet(props: {
  connection: Connection;
  workspace: string;
  onChange: () => void;
  onRemove: () => void;
}) {
  const { connection } = props;
  const { counts } = connection;
  const reads = isRead(connection.type);
  const waits = [
    counts["to-decide"] ? `${counts["to-decide"]} to decide` : "",
    (counts["to-join"] ?? 0) + (counts["to-bring-in"] ?? 0) > 0
      ? `${(counts["to-join"] ?? 0) + (counts["to-bring-in"] ?? 0)} to do`
      : "",
    counts.gone ? `${counts.gone} gone there` : "",
    connection.leftOver ? `${connection.leftOver} left over there` : "",
  ].filter(Boolean);
  return (
    <section className="sheet" aria-label={connection.name}>
      <Group justify="space-between" align="start">
        <Stack gap={4}>
          <h2 className="section-title">
            <Link
              to={
                reads
                  ? "/w/$workspace/accounts/connections/$id"
                  : "/w/$workspace/accounts/connections/$id/access"
              }
              params={{ workspace: props.workspace, id: connection.id }}
            >
              {connection.name}
            </Link>
          </h2>
          {(reads || waits.length > 0) && (
            <Text size="sm">{waits.length > 0 ? `${waits.join(", ")}.` : "Nothing waits for anybody."}</Text>
          )}
          <Text size="sm" className="soft" style={{ overflowWrap: "anywhere" }}>
            {placeText(connection)}
            {reads &&
              ` · ${connection.lastReadAt ? `last read ${instantText(connection.lastReadAt)}` : "never read"}`}
            {connection.everyHours > 0 && `, again every ${connection.everyHours} hours`}
          </Text>
          {connection.problem && (
            <Text size="sm" c="var(--aboard-bad)">
              {connection.problem.title}
            </Text>
          )}
        </Stack>
        <Allowed duty="settings">
          <Group gap="xs">
            {connection.type !== "file" && (
              <Button
                size="xs"
                variant="default"
                renderRoot={(root) => (
                  <Link
                    {...root}
                    to="/w/$workspace/accounts/connections/$id/access"
                    params={{ workspace: props.workspace, id: connection.id }}
                  />
                )}
              >
                Access there
              </Button>
            )}
            <Button size="xs" variant="default" onClick={props.onChange}>
              Change
            </Button>
            <Button size="xs" variant="default" onClick={props.onRemove}>
              Remove
            </Button>
          </Group>
        </Allowed>
      </Group>
    </section>
  );
}

/** Where it is, in words. */
export function placeText(connection: Connection) {
  if (connection.type !== "file") return connection.place;
  return connection.place ? `the file ${connection.place}` : "no file as yet";
}
