import { Button, Code, CopyButton, Group, Stack, Text, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Domain, inWorkspace, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { CsvLink } from "../ui/CsvLink";
import { FormDialog } from "../ui/FormDialog";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { StateWord } from "../ui/StateWord";
import { instantText } from "../ui/words";
import { SettingsNav } from "./SettingsNav";
import { useWorkspace } from "./useWorkspace";

const path = "/api/v1/workspaces/{workspace}/domains";

/** The mail domains that the workspace proves to be its own, each with the record that shows it. */
export function DomainsPage() {
  const { workspace } = useWorkspace();
  const [step, setStep] = useState<"add" | Domain>();
  const domains = useQuery({
    queryKey: [workspace, "domains"],
    queryFn: () => take(api.GET(path, inWorkspace(workspace))),
  });
  return (
    <Page
      title="Mail domains"
      actions={
        <>
          <CsvLink workspace={workspace} list="domains?format=csv" />
          <Allowed duty="settings">
            <Button onClick={() => setStep("add")}>Add a domain</Button>
          </Allowed>
        </>
      }
    >
      <SettingsNav workspace={workspace} />
      <Refusal of={domains.error} />
      {domains.data?.items.length === 0 && (
        <p className="sheet">
          There is no domain. Prove the one your staff has its mail at: then accounts there can be held by the
          workspace, made outright, or claimed.
        </p>
      )}
      {domains.data?.items.map((domain) => (
        <DomainSheet key={domain.id} domain={domain} onRemove={() => setStep(domain)} />
      ))}
      {step === "add" && (
        <FormDialog
          title="Add a mail domain"
          word="Add it"
          initial={{ domain: "" }}
          save={(body) => take(api.POST(path, { ...inWorkspace(workspace), body }))}
          onClose={() => setStep(undefined)}
        >
          {(form) => (
            <TextInput
              label="Domain"
              placeholder="harbour.example"
              description="What stands behind the @. Its subdomains are not meant."
              required
              data-autofocus
              {...form.getInputProps("domain")}
            />
          )}
        </FormDialog>
      )}
      {step && step !== "add" && (
        <FormDialog
          title={`Remove ${step.domain}`}
          word="Remove it"
          isAlarming
          initial={{}}
          save={() =>
            take(api.DELETE(`${path}/{domain}`, { params: { path: { workspace, domain: step.domain } } }))
          }
          said={`${step.domain} is removed. Its record in DNS can go.`}
          onClose={() => setStep(undefined)}
        >
          {() => <Text size="sm">Accounts at it can be claimed or made no more.</Text>}
        </FormDialog>
      )}
    </Page>
  );
}

function DomainSheet({ domain, onRemove }: { domain: Domain; onRemove: () => void }) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const check = useMutation({
    mutationFn: () =>
      take(api.POST(`${path}/{domain}/check`, { params: { path: { workspace, domain: domain.domain } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: [workspace, "domains"] }),
  });
  return (
    <section className="sheet" aria-label={domain.domain}>
      <Group justify="space-between" align="start">
        <Stack gap={4}>
          <Group gap="sm">
            <h2 className="section-title">{domain.domain}</h2>
            <StateWord state={domain.state} />
          </Group>
          <Text size="sm">{sentenceOf(domain)}</Text>
        </Stack>
        <Group gap="xs">
          <Button size="xs" variant="default" loading={check.isPending} onClick={() => check.mutate()}>
            Look now
          </Button>
          <Allowed duty="settings">
            <Button size="xs" variant="default" onClick={onRemove}>
              Remove
            </Button>
          </Allowed>
        </Group>
      </Group>
      <Refusal of={check.error} />
      {domain.state !== "proved" && (
        <Stack gap={4} mt="sm">
          <Text size="sm">Put this record into DNS and leave it there:</Text>
          <Group gap="xs">
            <Code block style={{ overflowWrap: "anywhere", whiteSpace: "pre-wrap" }}>
              {`${domain.recordName}. IN TXT "${domain.recordValue}"`}
            </Code>
            <CopyButton value={domain.recordValue}>
              {({ copied, copy }) => (
                <Button size="xs" variant="default" onClick={copy}>
                  {copied ? "Copied" : "Copy its text"}
                </Button>
              )}
            </CopyButton>
          </Group>
        </Stack>
      )}
    </section>
  );
}

function sentenceOf(domain: Domain) {
  if (domain.heldElsewhere)
    return "The record is seen, but another workspace proved the domain earlier and still holds it.";
  if (domain.state === "proved")
    return `Proved since ${instantText(domain.provedAt ?? domain.addedAt)}. Last looked at ${instantText(domain.lookedAt ?? domain.addedAt)}.`;
  if (domain.state === "lapsing" && domain.lostAt)
    return `The record is not seen any more. If it stays away, the proof is lost on ${instantText(domain.lostAt)}; nothing new is gained by it until then.`;
  if (domain.state === "lost")
    return "The record was away for too long. Nothing is done by this domain until it is seen again.";
  if (domain.lastLook === "unanswered") return "DNS does not answer. It is asked again by itself.";
  return "The record is not seen yet. It is looked for every ten minutes.";
}
