import { Alert, Button, Code, CopyButton, Group, Stack, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Application, api, inWorkspace, type NewApplication, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { CsvLink } from "../ui/CsvLink";
import { FormDialog } from "../ui/FormDialog";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { instantText } from "../ui/words";
import { SettingsNav } from "../Workspaces/SettingsNav";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { ApplicationDialog } from "./ApplicationDialog";

const path = "/api/v1/workspaces/{workspace}/applications";

type Step = "add" | { change: Application } | { remove: Application } | { renew: Application };

/** The registered applications: those people sign in to with us, and those that act by themselves. */
export function ApplicationsPage() {
  const { workspace } = useWorkspace();
  const [step, setStep] = useState<Step>();
  const [secret, setSecret] = useState<NewApplication>();
  const applications = useQuery({
    queryKey: [workspace, "applications"],
    queryFn: () => take(api.GET(path, inWorkspace(workspace))),
  });
  const close = () => setStep(undefined);
  return (
    <Page
      title="Applications"
      actions={
        <>
          <CsvLink workspace={workspace} list="applications?format=csv" />
          <Allowed duty="settings">
            <Button onClick={() => setStep("add")}>Register an application</Button>
          </Allowed>
        </>
      }
    >
      <SettingsNav workspace={workspace} />
      <Refusal of={applications.error} />
      {secret?.secret && <Secret of={secret} onSeen={() => setSecret(undefined)} />}
      {applications.data?.items.length === 0 && (
        <p className="sheet">
          No application is registered. Register one that people sign in to from here (OpenID Connect):
          whoever has access to the resource it is gets in, and nobody else. Or one that acts by itself, with
          some of somebody's duties.
        </p>
      )}
      {applications.data?.items.map((application) => (
        <ApplicationSheet key={application.id} application={application} onStep={setStep} />
      ))}
      {step === "add" && <ApplicationDialog onClose={close} onAdded={setSecret} />}
      {step && step !== "add" && "change" in step && (
        <ApplicationDialog application={step.change} onClose={close} />
      )}
      {step && step !== "add" && "renew" in step && (
        <FormDialog
          title={`Another secret for ${step.renew.name}`}
          word="Make it"
          isAlarming
          initial={{}}
          save={() =>
            take(
              api.POST(`${path}/{application}/secret`, {
                params: { path: { workspace, application: step.renew.id } },
              }),
            )
          }
          onDone={setSecret}
          onClose={close}
        >
          {() => (
            <Text size="sm">
              The one it has does not count any more: it stands still until it is given the new one.
            </Text>
          )}
        </FormDialog>
      )}
      {step && step !== "add" && "remove" in step && (
        <FormDialog
          title={`Remove ${step.remove.name}`}
          word="Remove it"
          isAlarming
          initial={{}}
          save={() =>
            take(
              api.DELETE(`${path}/{application}`, {
                params: { path: { workspace, application: step.remove.id } },
              }),
            )
          }
          said={`${step.remove.name} is removed.`}
          onClose={close}
        >
          {() => (
            <Text size="sm">
              Nobody signs in to it any more, and every token of it is dead. {signedInText(step.remove)}
            </Text>
          )}
        </FormDialog>
      )}
    </Page>
  );
}

function Secret({ of, onSeen }: { of: NewApplication; onSeen: () => void }) {
  return (
    <Alert
      title={`The secret of ${of.application.name}`}
      withCloseButton
      closeButtonLabel="Seen"
      onClose={onSeen}
      mb="md"
    >
      <Text size="sm">It is shown this once. Give it to the application, with its client id.</Text>
      <Copied label="Client id" value={of.application.clientId} />
      <Copied label="Secret" value={of.secret} />
    </Alert>
  );
}

function Copied({ label, value }: { label: string; value: string }) {
  return (
    <Group gap="xs" mt={6}>
      <Text size="sm" w={80}>
        {label}
      </Text>
      <Code style={{ overflowWrap: "anywhere", whiteSpace: "pre-wrap" }}>{value}</Code>
      <CopyButton value={value}>
        {({ copied, copy }) => (
          <Button size="xs" variant="default" onClick={copy}>
            {copied ? "Copied" : "Copy it"}
          </Button>
        )}
      </CopyButton>
    </Group>
  );
}

function signedInText(application: Application) {
  if (application.redirects.length === 0) return "";
  if (application.signedIn === 0) return "Nobody is signed in to it now.";
  return application.signedIn === 1
    ? "One sign-in to it stands."
    : `${application.signedIn} sign-ins to it stand.`;
}

function doesText(application: Application) {
  const does = [];
  if (application.redirects.length > 0)
    does.push(
      application.resource
        ? `Whoever has access to ${application.resource} signs in to it.`
        : "The resource it was is gone: nobody signs in to it.",
    );
  if (application.actsFor)
    does.push(`It acts by itself, for ${application.actsFor}: ${application.duties.join(", ")}.`);
  else if (application.duties.length > 0)
    does.push(`It may ask to act in somebody's name: ${application.duties.join(", ")}.`);
  return does.join(" ");
}

function ApplicationSheet(props: { application: Application; onStep: (step: Step) => void }) {
  const { application, onStep } = props;
  return (
    <section className="sheet" aria-label={application.name}>
      <Group justify="space-between" align="start">
        <Stack gap={4} style={{ flex: "1 1 20rem", overflowWrap: "anywhere" }}>
          <h2 className="section-title">{application.name}</h2>
          <Text size="sm">{doesText(application)}</Text>
          <Text size="sm">{signedInText(application)}</Text>
          {application.redirects.length > 0 && (
            <Text size="sm">
              People come back to {application.redirects.join(", ")}.{" "}
              {application.signOutAddress
                ? `It is told of sign-outs at ${application.signOutAddress}.`
                : "It is not told when somebody is signed out."}
            </Text>
          )}
          <Text size="sm" className="soft">
            client id {application.clientId} ·{" "}
            {application.hasSecret ? "with a secret" : "without a secret, on people's own devices"} ·
            registered on {instantText(application.addedAt)} by {application.addedBy}
          </Text>
        </Stack>
        <Allowed duty="settings">
          <Group gap="xs">
            <Button size="xs" variant="default" onClick={() => onStep({ change: application })}>
              Change
            </Button>
            {application.hasSecret && (
              <Button size="xs" variant="default" onClick={() => onStep({ renew: application })}>
                Another secret
              </Button>
            )}
            <Button size="xs" variant="default" onClick={() => onStep({ remove: application })}>
              Remove
            </Button>
          </Group>
        </Allowed>
      </Group>
    </section>
  );
}
