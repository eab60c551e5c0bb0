import { Button, Group, Radio, Select, Stack, Tabs, Textarea, TextInput, Title } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useMemo, useState } from "react";
import {
  api,
  type InvitationPreview,
  type InvitationRequest,
  inWorkspace,
  type Problem,
  Refused,
  take,
} from "../api";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";

type Form = {
  address: string;
  name: string;
  kind: string;
  role: string;
  until: string;
  answerDays: string;
  message: string;
};

const blank: Form = {
  address: "",
  name: "",
  kind: "guest",
  role: "view",
  until: "",
  answerDays: "",
  message: "",
};
const kinds = ["staff", "guest", "partner", "client"];

/** Invites one person: what they get on the left, the exact mail on the right, before anything is sent. */
export function NewInvitationPage() {
  const { workspace, view, today } = useWorkspace();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [form, setForm] = useState(blank);
  const [settled] = useDebouncedValue(form, 300);
  // The same key for the same words: pressing the button twice sends once.
  const key = useMemo(() => crypto.randomUUID() + JSON.stringify(form).length, [form]);
  const set = (part: Partial<Form>) => setForm((before) => ({ ...before, ...part }));

  const preview = useQuery({
    queryKey: [workspace, "preview", settled],
    queryFn: () =>
      take(
        api.POST("/api/v1/workspaces/{workspace}/invitations/preview", {
          ...inWorkspace(workspace),
          body: request(settled),
        }),
      ),
    enabled: settled.address.includes("@"),
    placeholderData: (before) => before,
  });
  const send = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/v1/workspaces/{workspace}/invitations", {
          ...inWorkspace(workspace),
          body: request(form),
          headers: { "Idempotency-Key": key },
        }),
      ),
    onSuccess: async (invitation) => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      await navigate({ to: "/w/$workspace/invite/$id", params: { workspace, id: invitation.id } });
    },
  });
  const problem = send.error instanceof Refused ? send.error.problem : (preview.data?.problem ?? undefined);
  const isChecked = settled === form && preview.data !== undefined && !preview.isPlaceholderData;

  return (
    <Page title="Invite someone">
      <div className="two-columns">
        <form
          className="sheet"
          onSubmit={(event) => {
            event.preventDefault();
            send.mutate();
          }}
        >
          <Stack>
            <TextInput
              label="Mail address"
              type="text"
              inputMode="email"
              autoComplete="off"
              required
              data-autofocus
              value={form.address}
              onChange={(event) => set({ address: event.currentTarget.value })}
              error={fieldError(problem, "address")}
            />
            <TextInput
              label="Name"
              description="As you know it; they choose their own when they come aboard."
              value={form.name}
              onChange={(event) => set({ name: event.currentTarget.value })}
              error={fieldError(problem, "name")}
            />
            <Radio.Group label="Kind" value={form.kind} onChange={(kind) => set({ kind })}>
              <Group mt={6}>
                {kinds.map((kind) => (
                  <Radio key={kind} value={kind} label={<Pennant kind={kind} />} />
                ))}
              </Group>
            </Radio.Group>
            <Select
              label="Role"
              data={(view?.roles ?? []).map((role) => ({
                value: role.name,
                label: `${role.name}: ${role.sentence}`,
              }))}
              value={form.role}
              onChange={(role) => set({ role: role ?? "view" })}
              allowDeselect={false}
            />
            <TextInput
              label="Last day"
              description="Their access ends after it. Empty means no end."
              type="date"
              min={today}
              value={form.until}
              onChange={(event) => set({ until: event.currentTarget.value })}
              error={fieldError(problem, "until")}
            />
            <TextInput
              label="Days to answer"
              description={`Empty means ${view?.answerDays ?? 30}.`}
              type="number"
              min={1}
              max={365}
              value={form.answerDays}
              onChange={(event) => set({ answerDays: event.currentTarget.value })}
              error={fieldError(problem, "answerDays")}
            />
            <Textarea
              label="Message"
              description="In your own plain words, without links."
              autosize
              minRows={3}
              value={form.message}
              onChange={(event) => set({ message: event.currentTarget.value })}
              error={fieldError(problem, "message")}
            />
            {problem && <NextStep problem={problem} workspace={workspace} />}
            {send.error && !problem && <Refusal of={send.error} />}
            <Group>
              <Button type="submit" loading={send.isPending} disabled={isChecked && !preview.data?.ready}>
                Send the invitation
              </Button>
              {isChecked && !preview.data?.ready && (
                <span className="soft">It cannot be sent as it stands.</span>
              )}
            </Group>
          </Stack>
        </form>
        <section className="sheet" aria-labelledby="mail">
          <Title order={2} size="h4" id="mail" mb="sm">
            The mail, exactly as it goes out
          </Title>
          {preview.data?.letter ? (
            <LetterPreview preview={preview.data} />
          ) : (
            <p className="soft">Type an address, and the mail appears here.</p>
          )}
        </section>
      </div>
    </Page>
  );
}

function request(form: Form): InvitationRequest {
  return {
    address: form.address,
    kind: form.kind,
    role: form.role,
    name: form.name || null,
    message: form.message || null,
    until: form.until || null,
    language: null,
    answerDays: form.answerDays ? Number(form.answerDays) : null,
  };
}

function fieldError(problem: Problem | undefined, field: string) {
  return problem?.field === field ? problem.title : undefined;
}

/** What stands in the way, with the step that helps instead. */
function NextStep({ problem, workspace }: { problem: Problem; workspace: string }) {
  const id = problem.related;
  return (
    <Refusal of={new Refused(problem)}>
      {id && problem.code === "address.member" && (
        <Link to="/w/$workspace/people/$id" params={{ workspace, id }}>
          Open their page
        </Link>
      )}
      {id && problem.code === "address.invited" && (
        <Link to="/w/$workspace/invite/$id" params={{ workspace, id }}>
          Open that invitation to resend or revoke it
        </Link>
      )}
    </Refusal>
  );
}

function LetterPreview({ preview }: { preview: InvitationPreview }) {
  const letter = preview.letter;
  if (!letter) return null;
  return (
    <Stack gap="sm">
      <dl className="facts">
        <dt>From</dt>
        <dd>{letter.from}</dd>
        <dt>To</dt>
        <dd>{letter.to}</dd>
        <dt>Subject</dt>
        <dd>{letter.subject}</dd>
        {preview.deadline && (
          <>
            <dt>Answer by</dt>
            <dd>{instantText(preview.deadline)}</dd>
          </>
        )}
      </dl>
      <Tabs defaultValue="html">
        <Tabs.List>
          <Tabs.Tab value="html">Formatted</Tabs.Tab>
          <Tabs.Tab value="text">Plain text</Tabs.Tab>
        </Tabs.List>
        <Tabs.Panel value="html" pt="sm">
          <iframe className="mail-preview" title="The mail, formatted" sandbox="" srcDoc={letter.html} />
        </Tabs.Panel>
        <Tabs.Panel value="text" pt="sm">
          <pre className="mail-text">{letter.text}</pre>
        </Tabs.Panel>
      </Tabs>
    </Stack>
  );
}
