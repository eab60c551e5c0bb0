import {
  Alert,
  Button,
  Code,
  CopyButton,
  Group,
  Modal,
  Skeleton,
  Stack,
  TextInput,
  Title,
} from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, type Invitation, take } from "../api";
import { History } from "../ui/History";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { StateWord } from "../ui/StateWord";
import { dayText, instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
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
  const { workspace } = useWorkspace();
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
              <Button component="a" variant="default" href={`/w/${workspace}/invite/new?draft=${id}`}>
                Change the draft
              </Button>
            )}
            {verbs
              .filter(({ states }) => states.includes(state))
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
              <Button variant="default" onClick={() => setAsked("refuse")}>
                Refuse …
              </Button>
            )}
            {["queued", "sent", "expired"].includes(state) && (
              <Button variant="default" onClick={() => setAsked("extend")}>
                Extend …
              </Button>
            )}
            {["draft", "queued", "sent", "expired", "bounced"].includes(state) && (
              <Button variant="default" onClick={() => setAsked("correct")}>
                Correct the address …
              </Button>
            )}
            {["queued", "sent"].includes(state) && (
              <Button variant="default" loading={link.isPending} onClick={() => link.mutate()}>
                Make a link to hand over
              </Button>
            )}
          </>
        )
      }
    >
      <InviteNav workspace={workspace} />
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
            <Facts invitation={invitation} workspace={workspace} />
          </section>
          <section className="sheet" aria-labelledby="history">
            <Stack>
              <Title order={2} size="h4" id="history">
                History
              </Title>
              <History entries={history.data?.items ?? []} />
            </Stack>
          </section>
          {asked && (
            <Ask
              what={asked}
              workspace={workspace}
              invitation={invitation}
              onClose={() => {
                setAsked(undefined);
                void refresh();
              }}
            />
          )}
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
function Ask(props: {
  what: keyof typeof questions;
  workspace: string;
  invitation: Invitation;
  onClose: () => void;
}) {
  const question = questions[props.what];
  const [value, setValue] = useState<string>(
    props.what === "correct" ? props.invitation.address : question.start,
  );
  const place = { params: { path: { workspace: props.workspace, id: props.invitation.id } } };
  const step = useMutation({
    mutationFn: () => {
      if (props.what === "refuse")
        return take(api.POST(`${path}/refuse`, { ...place, body: { reason: value || null } }));
      if (props.what === "extend")
        return take(api.POST(`${path}/extend`, { ...place, body: { days: Number(value) } }));
      return take(api.POST(`${path}/correct`, { ...place, body: { address: value } }));
    },
    onSuccess: props.onClose,
  });
  return (
    <Modal opened onClose={props.onClose} title={question.title}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          step.mutate();
        }}
      >
        <Stack>
          <TextInput
            label={question.label}
            type={question.type}
            data-autofocus
            value={value}
            onChange={(event) => setValue(event.currentTarget.value)}
          />
          <Refusal of={step.error} />
          <Group>
            <Button type="submit" loading={step.isPending}>
              {question.button}
            </Button>
            <Button variant="default" onClick={props.onClose}>
              Keep as it is
            </Button>
          </Group>
        </Stack>
      </form>
    </Modal>
  );
}

function Facts({ invitation, workspace }: { invitation: Invitation; workspace: string }) {
  const known = [invitation.title, invitation.department, invitation.organisation, invitation.country];
  return (
    <dl className="facts">
      <dt>State</dt>
      <dd>
        <StateWord state={invitation.state} />
        {invitation.memberId && (
          <>
            {" · "}
            <Link to="/w/$workspace/people/$id" params={{ workspace, id: invitation.memberId }}>
              see the person
            </Link>
          </>
        )}
      </dd>
      <dt>Mail</dt>
      <dd title={invitation.delivery?.answer ?? undefined}>
        {invitation.delivery?.sentence ??
          (invitation.state === "draft" ? "Nothing is sent yet." : "The mail is about to be sent.")}
      </dd>
      <dt>Address</dt>
      <dd>{invitation.address}</dd>
      <dt>As</dt>
      <dd>
        <Pennant kind={invitation.kind} />
      </dd>
      <dt>Role</dt>
      <dd>{invitation.role}</dd>
      {known.some(Boolean) && (
        <>
          <dt>Known as</dt>
          <dd>{known.filter(Boolean).join(", ")}</dd>
        </>
      )}
      {invitation.host && (
        <>
          <dt>Host</dt>
          <dd>{invitation.host}</dd>
        </>
      )}
      <dt>Stay</dt>
      <dd>
        {invitation.from && `from ${dayText(invitation.from)} `}
        {invitation.until ? `until ${dayText(invitation.until)}, inclusive` : "no end date"}
      </dd>
      <dt>Invited by</dt>
      <dd>
        {invitation.invitedBy}, {instantText(invitation.createdAt)}
        {invitation.batchId && (
          <>
            {" · "}
            <Link to="/w/$workspace/invite/lists/$id" params={{ workspace, id: invitation.batchId }}>
              see the list
            </Link>
          </>
        )}
        {invitation.linkId && (
          <>
            {" · "}
            <Link to="/w/$workspace/invite/links/$id" params={{ workspace, id: invitation.linkId }}>
              see the join link
            </Link>
          </>
        )}
      </dd>
      <dt>Answer by</dt>
      <dd>{instantText(invitation.deadline)}</dd>
      <dt>Approval</dt>
      <dd>{invitation.needsApproval ? "due when they accept" : "not needed"}</dd>
      <dt>Page first opened</dt>
      <dd>{invitation.seenAt ? instantText(invitation.seenAt) : "not yet"}</dd>
      <dt>Answered</dt>
      <dd>{invitation.answeredAt ? instantText(invitation.answeredAt) : "not yet"}</dd>
      <dt>Sent again</dt>
      <dd>{invitation.resends} times</dd>
      <dt>Reminded of</dt>
      <dd>
        {invitation.reminders} times
        {invitation.nextReminderAt && `, next ${instantText(invitation.nextReminderAt)}`}
      </dd>
      {invitation.note && (
        <>
          <dt>Note</dt>
          <dd>{invitation.note}</dd>
        </>
      )}
      {invitation.message && (
        <>
          <dt>Message</dt>
          <dd style={{ whiteSpace: "pre-line" }}>{invitation.message}</dd>
        </>
      )}
    </dl>
  );
}
