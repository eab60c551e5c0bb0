import { Alert, Button, Code, CopyButton, Group, Skeleton, Stack, TextInput, Title } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, type Invitation, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { FormDialog } from "../ui/FormDialog";
import { History } from "../ui/History";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { InvitationFacts } from "./InvitationFacts";
import { InviteNav } from "./InviteNav";

const path = "/api/v1/workspaces/{workspace}/invitations/{id}";

type Verb = "send" | "resend" | "remind" | "approve" | "revoke";
const verbs: { verb: Verb; name: string; states: string[]; isAlarming?: boolean }[] = [
  { verb: "send", name: "Send the invitation", states: ["draft"] },
  { verb: "approve", name: "Approve", states: ["waiting"] },
  { verb: "remind", name: "Remind now", states: ["sent"] },
  { verb: "resend", name: "Resend with a new link", states: ["queued", "sent", "expired", "bounced"] },
  { verb: "revoke", name: "Revoke", states: ["draft", "queued", "sent", "waiting"], isAlarming: true },
];

/** One invitation: where it stands, what happened to it, and what can be done. */
export function InvitationPage() {
  const { workspace, may } = useWorkspace();
  const { id } = useParams({ from: "/w/$workspace/invite/$id" });
  const queries = useQueryClient();
  const place = { params: { path: { workspace, id } } };
  const refresh = () => queries.invalidateQueries({ queryKey: [workspace] });
  const [asked, setAsked] = useState<"refuse" | "extend" | "correct">();
  const found = useQuery({
    queryKey: [workspace, "invitation", id],
    queryFn: () => take(api.GET(path, place)),
    refetchInterval: 3_000,
  });
  const history = useQuery({
    queryKey: [workspace, "invitation", id, "history", found.data?.version],
    queryFn: () => take(api.GET(`${path}/history`, place)),
    enabled: found.data !== undefined,
    placeholderData: (before) => before,
  });
  const step = useMutation({
    // The states guard themselves; a mail that went out meanwhile must not stand in the way of a step.
    mutationFn: (verb: Verb) => take(api.POST(`${path}/${verb}`, place)),
    onSettled: refresh,
  });
  const link = useMutation({ mutationFn: () => take(api.POST(`${path}/link`, place)), onSettled: refresh });
  const invitation = found.data;
  const state = invitation?.state ?? "";
  return (
    <Page
      title={invitation ? invitation.name || invitation.address : "Invitation"}
      actions={
        invitation && (
          <>
            {state === "draft" && (
              <Allowed duty="invite">
                <Button component="a" variant="default" href={`/w/${workspace}/invite/new?draft=${id}`}>
                  Change the draft
                </Button>
              </Allowed>
            )}
            {verbs
              .filter(
                ({ verb, states }) =>
                  states.includes(state) && may(verb === "approve" ? "approve" : "invite"),
              )
              .map(({ verb, name, isAlarming }) => (
                <Button
                  key={verb}
                  color={isAlarming ? "alarm" : undefined}
                  variant={
                    isAlarming ? "outline" : verb === "send" || verb === "approve" ? "filled" : "default"
                  }
                  loading={step.isPending && step.variables === verb}
                  onClick={() => step.mutate(verb)}
                >
                  {name}
                </Button>
              ))}
            {state === "waiting" && (
              <Allowed duty="approve">
                <Button variant="default" onClick={() => setAsked("refuse")}>
                  Refuse …
                </Button>
              </Allowed>
            )}
            {["queued", "sent", "expired"].includes(state) && (
              <Allowed duty="invite">
                <Button variant="default" onClick={() => setAsked("extend")}>
                  Extend …
                </Button>
              </Allowed>
            )}
            {["draft", "queued", "sent", "expired", "bounced"].includes(state) && (
              <Allowed duty="invite">
                <Button variant="default" onClick={() => setAsked("correct")}>
                  Correct the address …
                </Button>
              </Allowed>
            )}
            {["queued", "sent"].includes(state) && (
              <Allowed duty="invite">
                <Button variant="default" loading={link.isPending} onClick={() => link.mutate()}>
                  Make a link to hand over
                </Button>
              </Allowed>
            )}
          </>
        )
      }
    >
      <InviteNav />
      <Refusal of={step.error ?? link.error ?? found.error} />
      {link.data && (
        <Alert color="fair" variant="light" title="Copy the link now; it is not shown again.">
          <Group>
            <Code style={{ overflowWrap: "anywhere" }}>{link.data.link}</Code>
            <CopyButton value={link.data.link}>
              {({ copied, copy }) => (
                <Button size="xs" variant="default" onClick={copy}>
                  {copied ? "Copied" : "Copy"}
                </Button>
              )}
            </CopyButton>
          </Group>
          It is meant for {invitation?.address} alone; the link in the mail goes on counting.
        </Alert>
      )}
      {!invitation && !found.error && <Skeleton height={240} />}
      {invitation && (
        <div className="two-columns">
          <section className="sheet" aria-label="Where it stands">
            <InvitationFacts invitation={invitation} workspace={workspace} />
          </section>
          <section className="sheet" aria-labelledby="history">
            <Stack>
              <Title order={2} size="h4" id="history">
                History
              </Title>
              <History entries={history.data?.items ?? []} />
            </Stack>
          </section>
          {asked && <Ask what={asked} invitation={invitation} onClose={() => setAsked(undefined)} />}
        </div>
      )}
    </Page>
  );
}

const questions = {
  refuse: { title: "Refuse", label: "Reason, for the person", type: "text", button: "Refuse", start: "" },
  extend: { title: "Extend", label: "Days from now", type: "number", button: "Extend", start: "14" },
  correct: {
    title: "Correct the address",
    label: "The right address",
    type: "text",
    button: "Correct and send again",
    start: "",
  },
} as const;

/** A step that needs one word more. */
function Ask(props: { what: keyof typeof questions; invitation: Invitation; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const question = questions[props.what];
  const place = { params: { path: { workspace, id: props.invitation.id } } };
  return (
    <FormDialog
      isStep
      title={question.title}
      word={question.button}
      initial={{ value: props.what === "correct" ? props.invitation.address : (question.start as string) }}
      isReady={() => true}
      save={({ value }) => {
        if (props.what === "refuse")
          return take(api.POST(`${path}/refuse`, { ...place, body: { reason: value || null } }));
        if (props.what === "extend")
          return take(api.POST(`${path}/extend`, { ...place, body: { days: Number(value) } }));
        return take(api.POST(`${path}/correct`, { ...place, body: { address: value } }));
      }}
      onClose={props.onClose}
    >
      {(form) => (
        <TextInput
          label={question.label}
          type={question.type}
          data-autofocus
          {...form.getInputProps("value")}
        />
      )}
    </FormDialog>
  );
}
