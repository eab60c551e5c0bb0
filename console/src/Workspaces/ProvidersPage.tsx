import {
  Button,
  Code,
  CopyButton,
  Group,
  MultiSelect,
  PasswordInput,
  Select,
  Stack,
  Text,
  TextInput,
} from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, inWorkspace, type Provider, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { CsvLink } from "../ui/CsvLink";
import { FormDialog } from "../ui/FormDialog";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { instantText } from "../ui/words";
import { SettingsNav } from "./SettingsNav";
import { useWorkspace } from "./useWorkspace";

const path = "/api/v1/workspaces/{workspace}/providers";

type Step = "add" | { change: Provider } | { remove: Provider };

/** The providers (OpenID Connect) by which people at proved domains sign in. */
export function ProvidersPage() {
  const { workspace } = useWorkspace();
  const [step, setStep] = useState<Step>();
  const providers = useQuery({
    queryKey: [workspace, "providers"],
    queryFn: () => take(api.GET(path, inWorkspace(workspace))),
  });
  const close = () => setStep(undefined);
  return (
    <Page
      title="Sign-in by providers"
      actions={
        <>
          <CsvLink workspace={workspace} list="providers?format=csv" />
          <Allowed duty="settings">
            <Button onClick={() => setStep("add")}>Add a provider</Button>
          </Allowed>
        </>
      }
    >
      <SettingsNav workspace={workspace} />
      <Refusal of={providers.error} />
      {providers.data?.items.length === 0 && (
        <p className="sheet">
          There is no provider. Where an organisation has its own sign-in (OpenID Connect), its people come in
          by that: name it here for a mail domain that is proved.
        </p>
      )}
      {providers.data?.items.map((provider) => (
        <ProviderSheet
          key={provider.id}
          provider={provider}
          onChange={() => setStep({ change: provider })}
          onRemove={() => setStep({ remove: provider })}
        />
      ))}
      {step === "add" && <ProviderDialog onClose={close} />}
      {step && step !== "add" && "change" in step && (
        <ProviderDialog provider={step.change} onClose={close} />
      )}
      {step && step !== "add" && "remove" in step && (
        <FormDialog
          title={`Remove ${step.remove.name}`}
          word="Remove it"
          isAlarming
          initial={{}}
          save={() =>
            take(
              api.DELETE(`${path}/{provider}`, { params: { path: { workspace, provider: step.remove.id } } }),
            )
          }
          said={`${step.remove.name} is removed.`}
          onClose={close}
        >
          {() => (
            <Text size="sm">
              Nobody signs in by it any more. {usedText(step.remove)} They keep their accounts, and sign in
              with a mailed code or what else they have.
            </Text>
          )}
        </FormDialog>
      )}
    </Page>
  );
}

function usedText(provider: Provider) {
  if (provider.usedBy === 0) return "No account here has it among its ways in.";
  return provider.usedBy === 1
    ? "One account here has it among its ways in."
    : `${provider.usedBy} accounts here have it among their ways in.`;
}

function ProviderSheet(props: { provider: Provider; onChange: () => void; onRemove: () => void }) {
  const { provider } = props;
  return (
    <section className="sheet" aria-label={provider.name}>
      <Group justify="space-between" align="start">
        <Stack gap={4}>
          <h2 className="section-title">{provider.name}</h2>
          <Text size="sm">
            {provider.domains.length > 0
              ? `For people at ${provider.domains.join(", ")}.`
              : "For nobody now."}{" "}
            {provider.joinLink
              ? `Whoever it vouches for joins by the link “${provider.joinLink}”.`
              : "Whoever it vouches for joins if they are invited."}
          </Text>
          <Text size="sm">{usedText(provider)}</Text>
          <Text size="sm" className="soft">
            {provider.issuer} · client id {provider.clientId} · added on {instantText(provider.addedAt)} by{" "}
            {provider.addedBy}
          </Text>
        </Stack>
        <Allowed duty="settings">
          <Group gap="xs">
            <Button size="xs" variant="default" onClick={props.onChange}>
              Change
            </Button>
            <Button size="xs" variant="default" onClick={props.onRemove}>
              Remove
            </Button>
          </Group>
        </Allowed>
      </Group>
      <Stack gap={4} mt="sm">
        <Text size="sm">The address it has to send people back to:</Text>
        <Group gap="xs">
          <Code block style={{ overflowWrap: "anywhere", whiteSpace: "pre-wrap" }}>
            {provider.redirectUri}
          </Code>
          <CopyButton value={provider.redirectUri}>
            {({ copied, copy }) => (
              <Button size="xs" variant="default" onClick={copy}>
                {copied ? "Copied" : "Copy it"}
              </Button>
            )}
          </CopyButton>
        </Group>
      </Stack>
    </section>
  );
}

function ProviderDialog({ provider, onClose }: { provider?: Provider; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const domains = useQuery({
    queryKey: [workspace, "domains"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/domains", inWorkspace(workspace))),
  });
  const links = useQuery({
    queryKey: [workspace, "links", "open"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/links", inWorkspace(workspace))),
  });
  const open = (links.data?.items ?? []).filter((link) => link.state === "open");
  return (
    <FormDialog
      title={provider ? `Change ${provider.name}` : "Add a provider"}
      word={provider ? "Save it" : "Add it"}
      initial={{
        name: provider?.name ?? "",
        issuer: provider?.issuer ?? "",
        clientId: provider?.clientId ?? "",
        clientSecret: "",
        domains: provider?.domains ?? [],
        joinLink: provider?.joinLink || null,
      }}
      save={(values) => {
        const body = { ...values, clientSecret: values.clientSecret || null };
        return provider
          ? take(
              api.PUT(`${path}/{provider}`, {
                params: { path: { workspace, provider: provider.id } },
                body,
              }),
            )
          : take(api.POST(path, { ...inWorkspace(workspace), body }));
      }}
      onClose={onClose}
    >
      {(form) => (
        <>
          <TextInput
            label="Name"
            description="What its people know it by."
            required
            data-autofocus
            {...form.getInputProps("name")}
          />
          {!provider && (
            <TextInput
              label="Issuer"
              description="Its address, exactly as it says it itself. It is asked at once who it is."
              placeholder="https://sign-in.harbour.example"
              required
              {...form.getInputProps("issuer")}
            />
          )}
          <TextInput label="Client id" required {...form.getInputProps("clientId")} />
          <PasswordInput
            label="Client secret"
            description={
              provider?.hasSecret ? "One is kept; write another to replace it." : "The one it gave you."
            }
            autoComplete="off"
            {...form.getInputProps("clientSecret")}
          />
          <MultiSelect
            label="Mail domains"
            description="Only domains that are proved. People at them are sent to this provider."
            data={(domains.data?.items ?? [])
              .filter((domain) => domain.state === "proved")
              .map((domain) => domain.domain)}
            {...form.getInputProps("domains")}
          />
          <Select
            label="Who joins"
            description="By an open join link, its kind, roles and number of places count."
            placeholder="only who is invited"
            clearable
            data={[...new Set(open.map((link) => link.label))]}
            {...form.getInputProps("joinLink")}
          />
        </>
      )}
    </FormDialog>
  );
}
