import { Alert, Button, Group, Radio, Select, Stack, Textarea, TextInput, Title } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { useEffect, useMemo, useState } from "react";
import { PersonField } from "../Access/PersonField";
import { ToClaims } from "../Accounts/ToClaims";
import { api, inWorkspace, type Problem, Refused, take } from "../api";
import { DayField } from "../ui/DayField";
import { NumberField } from "../ui/NumberField";
import { OrganisationField } from "../ui/OrganisationField";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { StayField } from "../ui/StayField";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { Blockers } from "./Blockers";
import { Gives } from "./Gives";
import { InviteNav } from "./InviteNav";
import { blank, type Form, filledBy, formOf, requestOf } from "./invitationForm";
import { LetterPreview } from "./LetterPreview";
import { NextStep, Suggestion } from "./WayOn";

const invitationPath = "/api/v1/workspaces/{workspace}/invitations";
const more = [
  ["title", "Job title"],
  ["department", "Department"],
  ["manager", "Manager"],
  ["country", "Country"],
  ["host", "Host: the address of a member of the staff"],
  ["note", "Note to tell them apart, not shown to them"],
] as const;
const kinds = ["staff", "guest", "partner", "client"];

/** Invites one person: what they get on the left, the exact mail on the right, before anything is sent. */
export function NewInvitationPage() {
  const { workspace, view, today } = useWorkspace();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const { draft } = useSearch({ from: "/w/$workspace/invite/new" });
  const [form, setForm] = useState(blank);
  const place = { params: { path: { workspace, id: draft ?? "" } } };
  const kept = useQuery({
    queryKey: [workspace, "invitation", draft],
    queryFn: () => take(api.GET(`${invitationPath}/{id}`, place)),
    enabled: draft !== undefined,
  });
  useEffect(() => {
    if (kept.data) setForm(formOf(kept.data));
  }, [kept.data]);
  const presets = useQuery({
    queryKey: [workspace, "presets"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/presets", inWorkspace(workspace))),
  });
  const [settled] = useDebouncedValue(form, 300);
  // The same key for the same words: pressing the button twice sends once.
  const key = useMemo(() => crypto.randomUUID() + JSON.stringify(form).length, [form]);
  const change = (next: (before: Form) => Form) => {
    // What was refused may be mended by this.
    if (send.isError) send.reset();
    setForm(next);
  };
  const set = (part: Partial<Form>) => change((before) => ({ ...before, ...part }));

  const preview = useQuery({
    queryKey: [workspace, "preview", settled],
    queryFn: () =>
      take(
        api.POST("/api/v1/workspaces/{workspace}/invitations/preview", {
          ...inWorkspace(workspace),
          body: requestOf(settled),
        }),
      ),
    enabled: settled.address.includes("@"),
    placeholderData: (before) => before,
  });
  const send = useMutation({
    mutationFn: async (asDraft: boolean) => {
      if (draft) {
        const changed = await take(
          api.PUT(`${invitationPath}/{id}`, {
            ...place,
            headers: { "If-Match": `"${kept.data?.version}"` },
            body: requestOf(form),
          }),
        );
        return asDraft ? changed : take(api.POST(`${invitationPath}/{id}/send`, place));
      }
      return take(
        api.POST(invitationPath, {
          ...inWorkspace(workspace),
          body: { ...requestOf(form), draft: asDraft },
          headers: { "Idempotency-Key": key + asDraft },
        }),
      );
    },
    onSuccess: async (invitation) => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      await navigate({ to: "/w/$workspace/invite/$id", params: { workspace, id: invitation.id } });
    },
  });
  const test = useMutation({
    mutationFn: () =>
      take(api.POST(`${invitationPath}/test`, { ...inWorkspace(workspace), body: requestOf(form) })),
  });
  const problem = send.error instanceof Refused ? send.error.problem : (preview.data?.problem ?? undefined);
  // What is still to be filled in is said once somebody tries to send.
  const shown = problem?.code === "role.missing" && !send.error ? undefined : problem;
  const isChecked = settled === form && preview.data !== undefined && !preview.isPlaceholderData;

  return (
    <Page title={draft ? "Change the draft" : "Invite someone"}>
      <InviteNav />
      <div className="two-columns">
        <form
          className="sheet"
          onSubmit={(event) => {
            event.preventDefault();
            send.mutate(false);
          }}
        >
          <Stack>
            <PersonField
              label="Mail address"
              required
              value={form.address}
              onChange={(address) => set({ address })}
              onPick={(one) =>
                set({
                  address: one.address,
                  name: one.name,
                  kind: one.kind,
                  organisation: one.organisation,
                  title: one.title,
                })
              }
              error={fieldError(problem, "address")}
            />
            {presets.data && presets.data.items.length > 0 && (
              <Select
                label="Preset"
                placeholder="None"
                clearable
                data={presets.data.items.map((preset) => preset.name)}
                value={form.preset || null}
                onChange={(name) => {
                  const preset = presets.data.items.find((one) => one.name === name);
                  set(preset ? filledBy(preset, today) : { preset: "" });
                }}
              />
            )}
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
            <Gives
              value={form.gives}
              onChange={(part) => change((before) => ({ ...before, gives: { ...before.gives, ...part } }))}
              error={fieldError(shown, "role")}
            />
            <DayField
              label="First day"
              description="They have no access before it. Empty means at once."
              min={today}
              value={form.from}
              onChange={(from) => set({ from })}
              error={fieldError(problem, "from")}
            />
            <StayField
              kind={form.kind}
              from={form.from}
              until={form.until}
              noEnd={form.noEnd}
              onChange={set}
              error={fieldError(problem, "until")}
            />
            <OrganisationField
              value={form.organisation}
              onChange={(organisation) => set({ organisation, organisationAsWritten: false })}
              asWritten={form.organisationAsWritten}
              onAsWritten={(organisationAsWritten) => set({ organisationAsWritten })}
              error={
                problem?.field === "organisation" ? `${problem.title} ${problem.detail ?? ""}` : undefined
              }
            />
            <NumberField
              isOptional
              label="Days to answer"
              description={`Empty means ${view?.answerDays ?? 30}.`}
              min={1}
              max={365}
              value={form.answerDays}
              onChange={(days) => set({ answerDays: `${days}` })}
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
            <Select
              label="Language of the mail"
              placeholder="The workspace's"
              clearable
              data={[
                { value: "en", label: "English" },
                { value: "de", label: "German" },
              ]}
              value={form.language || null}
              onChange={(language) => set({ language: language ?? "" })}
            />
            <details>
              <summary>More about the person</summary>
              <Stack mt="sm">
                {more.map(([field, label]) => (
                  <TextInput
                    key={field}
                    label={label}
                    value={form[field]}
                    onChange={(event) => set({ [field]: event.currentTarget.value })}
                    error={fieldError(problem, field)}
                  />
                ))}
              </Stack>
            </details>
            {preview.data?.notes?.map((note) => (
              <Alert key={note.code} color="brass" variant="light" title={note.sentence}>
                <ToClaims code={note.code} workspace={workspace} />
                {note.suggestion && (
                  <Suggestion address={note.suggestion} onTake={(address) => set({ address })} />
                )}
              </Alert>
            ))}
            {preview.data?.suggestion && isChecked && (
              <Suggestion address={preview.data.suggestion} onTake={(address) => set({ address })} />
            )}
            {shown && <NextStep problem={shown} workspace={workspace} isForetold={!send.error} />}
            {isChecked && <Blockers blockers={(preview.data?.blockers ?? []).slice(1)} />}
            {send.error && !problem && <Refusal of={send.error} />}
            <Group className="in-sight">
              <Button
                type="submit"
                loading={send.isPending}
                disabled={isChecked && !preview.data?.ready && shown !== undefined}
              >
                Send the invitation
              </Button>
              <Button
                variant="default"
                loading={send.isPending && send.variables}
                disabled={!form.address}
                onClick={() => send.mutate(true)}
              >
                Keep as a draft
              </Button>
              <Button
                variant="subtle"
                loading={test.isPending}
                disabled={!preview.data?.letter}
                onClick={() => test.mutate()}
              >
                Send it to myself first
              </Button>
              {test.isSuccess && <span role="status">It is on its way to you.</span>}
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

/** What was probably meant; taken only when somebody says so. */
function fieldError(problem: Problem | undefined, field: string) {
  return problem?.field === field ? problem.title : undefined;
}

/** What stands in the way, with the step that helps instead. */
