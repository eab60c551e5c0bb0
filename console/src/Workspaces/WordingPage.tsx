import {
  Button,
  Group,
  SegmentedControl,
  Select,
  Skeleton,
  Stack,
  Textarea,
  TextInput,
  Title,
} from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, inWorkspace, take, type Wording } from "../api";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { SettingsNav } from "./SettingsNav";
import { useWorkspace } from "./useWorkspace";

const path = "/api/v1/workspaces/{workspace}/wordings";

/** How the workspace speaks and looks to invitees: sender, colour, and the wording of its mails. */
export function WordingPage() {
  const { workspace } = useWorkspace();
  const [letter, setLetter] = useState("invitation");
  const [language, setLanguage] = useState("en");
  const wordings = useQuery({
    queryKey: [workspace, "wordings"],
    queryFn: () => take(api.GET(path, inWorkspace(workspace))),
  });
  const current = wordings.data?.items.find((one) => one.letter === letter && one.language === language);
  return (
    <Page title="Wording and looks">
      <SettingsNav workspace={workspace} />
      <Looks />
      <Refusal of={wordings.error} />
      <Group>
        <SegmentedControl
          aria-label="Which mail"
          value={letter}
          onChange={setLetter}
          data={[
            { value: "invitation", label: "Invitation" },
            { value: "reminder", label: "Reminder" },
          ]}
        />
        <SegmentedControl
          aria-label="Language"
          value={language}
          onChange={setLanguage}
          data={[
            { value: "en", label: "English" },
            { value: "de", label: "German" },
          ]}
        />
      </Group>
      {!current && !wordings.error && <Skeleton height={300} />}
      {current && (
        <WordingForm key={letter + language + current.isOwn} workspace={workspace} wording={current} />
      )}
    </Page>
  );
}

function WordingForm({ workspace, wording }: { workspace: string; wording: Wording }) {
  const queries = useQueryClient();
  const [subject, setSubject] = useState(wording.subject);
  const [body, setBody] = useState(wording.body);
  const [settled] = useDebouncedValue({ subject, body }, 400);
  const place = { params: { path: { workspace, letter: wording.letter, language: wording.language } } };
  const refresh = () => queries.invalidateQueries({ queryKey: [workspace, "wordings"] });
  const preview = useQuery({
    queryKey: [workspace, "wording-preview", wording.letter, wording.language, settled],
    queryFn: () => take(api.POST(`${path}/{letter}/{language}/preview`, { ...place, body: settled })),
    placeholderData: (before) => before,
    retry: false,
  });
  const save = useMutation({
    mutationFn: () =>
      take(
        api.PUT(`${path}/{letter}/{language}`, {
          ...place,
          headers: { "If-Match": `"${wording.version}"` },
          body: { subject, body },
        }),
      ),
    onSuccess: refresh,
  });
  const reset = useMutation({
    mutationFn: () => take(api.DELETE(`${path}/{letter}/{language}`, place)),
    onSuccess: refresh,
  });
  return (
    <div className="two-columns">
      <form
        className="sheet"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <Stack>
          <TextInput
            label="Subject"
            value={subject}
            onChange={(event) => setSubject(event.currentTarget.value)}
          />
          <Textarea
            label="Text"
            description="Plain text; empty lines part paragraphs. The message, the button and the small print come by themselves."
            autosize
            minRows={8}
            value={body}
            onChange={(event) => setBody(event.currentTarget.value)}
          />
          <span className="soft">
            Put in with two braces, as in {"{{ workspace }}"}: {wording.words.join(", ")}.
          </span>
          <Refusal of={save.error ?? reset.error} />
          <Group>
            <Button type="submit" loading={save.isPending}>
              Save this wording
            </Button>
            {wording.isOwn && (
              <Button variant="default" loading={reset.isPending} onClick={() => reset.mutate()}>
                Back to the wording that ships
              </Button>
            )}
            {save.isSuccess && <span role="status">Saved.</span>}
          </Group>
        </Stack>
      </form>
      <section className="sheet" aria-labelledby="as-mail">
        <Title order={2} size="h4" id="as-mail" mb="sm">
          As it would come to you
        </Title>
        <Refusal of={preview.error} isForetold />
        {preview.data && !preview.error && (
          <>
            <p>
              <span className="soft">Subject:</span> {preview.data.subject}
            </p>
            <iframe
              className="mail-preview"
              title="The mail, formatted"
              sandbox=""
              srcDoc={preview.data.html}
            />
          </>
        )}
      </section>
    </div>
  );
}

function Looks() {
  const { workspace, view } = useWorkspace();
  const queries = useQueryClient();
  const [form, setForm] = useState({ senderName: "", replyTo: "", language: "en", colour: "" });
  useEffect(() => {
    if (view)
      setForm({
        senderName: view.senderName,
        replyTo: view.replyTo ?? "",
        language: view.language,
        colour: view.colour ?? "",
      });
  }, [view]);
  const save = useMutation({
    mutationFn: () =>
      take(
        api.PUT("/api/v1/workspaces/{workspace}/appearance", {
          ...inWorkspace(workspace),
          headers: { "If-Match": `"${view?.appearance}"` },
          body: { ...form, replyTo: form.replyTo || null, colour: form.colour || null },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: [workspace] }),
  });
  const set = (part: Partial<typeof form>) => setForm((before) => ({ ...before, ...part }));
  return (
    <form
      className="sheet"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <Stack>
        <Group align="end">
          <TextInput
            label="Mails come from"
            required
            value={form.senderName}
            onChange={(event) => set({ senderName: event.currentTarget.value })}
          />
          <TextInput
            label="Answers go to"
            placeholder="the sender"
            value={form.replyTo}
            onChange={(event) => set({ replyTo: event.currentTarget.value })}
          />
          <Select
            label="Language"
            data={[
              { value: "en", label: "English" },
              { value: "de", label: "German" },
            ]}
            value={form.language}
            onChange={(language) => set({ language: language ?? "en" })}
            allowDeselect={false}
            w={140}
          />
          <TextInput
            label="Colour"
            placeholder="#0b5563"
            value={form.colour}
            onChange={(event) => set({ colour: event.currentTarget.value })}
            w={120}
          />
          <Button type="submit" variant="default" loading={save.isPending}>
            Save
          </Button>
          {save.isSuccess && <span role="status">Saved.</span>}
        </Group>
        <Refusal of={save.error} />
      </Stack>
    </form>
  );
}
