import { Alert, Button, Code, CopyButton, Group, Stack, TextInput, Title } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, inWorkspace, take } from "../api";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { SimpleTable } from "../ui/SimpleTable";
import { instantText } from "../ui/words";
import { SettingsNav } from "./SettingsNav";
import { useWorkspace } from "./useWorkspace";

/** What the workspace is, and the tokens by which programs act in it. */
export function WorkspacePage() {
  const { workspace, view } = useWorkspace();
  return (
    <Page title="Workspace">
      <SettingsNav workspace={workspace} />
      {view && (
        <section className="sheet">
          <dl className="facts">
            <dt>Name</dt>
            <dd>{view.name}</dd>
            <dt>Short name</dt>
            <dd>{view.shortName}</dd>
            <dt>Time zone</dt>
            <dd>{view.timeZone}</dd>
            <dt>Mails come from</dt>
            <dd>{view.senderName}</dd>
            <dt>Answers go to</dt>
            <dd>{view.replyTo ?? "the sender"}</dd>
            <dt>Time to answer</dt>
            <dd>{view.answerDays} days</dd>
          </dl>
        </section>
      )}
      <Tokens />
    </Page>
  );
}

function Tokens() {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const [label, setLabel] = useState("");
  const path = "/api/v1/workspaces/{workspace}/tokens";
  const tokens = useQuery({
    queryKey: [workspace, "tokens"],
    queryFn: () => take(api.GET(path, inWorkspace(workspace))),
  });
  const refresh = () => queries.invalidateQueries({ queryKey: [workspace, "tokens"] });
  const add = useMutation({
    mutationFn: () => take(api.POST(path, { ...inWorkspace(workspace), body: { label } })),
    onSuccess: () => {
      setLabel("");
      return refresh();
    },
  });
  const revoke = useMutation({
    mutationFn: (id: string) => take(api.DELETE(`${path}/{id}`, { params: { path: { workspace, id } } })),
    onSuccess: refresh,
  });
  return (
    <section className="sheet" aria-labelledby="tokens">
      <Stack>
        <Title order={2} size="h4" id="tokens">
          API tokens
        </Title>
        <span className="soft">A program with a token acts in this workspace as whoever made it.</span>
        <Refusal of={add.error ?? revoke.error ?? tokens.error} />
        {add.data && (
          <Alert color="fair" variant="light" title="Copy the token now; it is not shown again.">
            <Group>
              <Code>{add.data.token}</Code>
              <CopyButton value={add.data.token}>
                {({ copied, copy }) => (
                  <Button size="xs" variant="default" onClick={copy}>
                    {copied ? "Copied" : "Copy"}
                  </Button>
                )}
              </CopyButton>
            </Group>
          </Alert>
        )}
        <form
          onSubmit={(event) => {
            event.preventDefault();
            add.mutate();
          }}
        >
          <Group align="end">
            <TextInput
              label="What it is for"
              value={label}
              onChange={(event) => setLabel(event.currentTarget.value)}
              maxLength={100}
              required
            />
            <Button type="submit" loading={add.isPending}>
              Make a token
            </Button>
          </Group>
        </form>
        <div className="table-holder">
          <SimpleTable
            isBare
            rows={tokens.data?.items}
            keyOf={(token) => token.id}
            nothing="No program acts here yet."
            columns={[
              { head: "For", cell: (token) => token.label },
              { head: "Acts as", cell: (token) => token.holder },
              { head: "Made", cell: (token) => instantText(token.createdAt) },
              { head: "Counts until", cell: (token) => token.expiresAt && instantText(token.expiresAt) },
              {
                head: "Revoke",
                isHeadHidden: true,
                cell: (token) =>
                  token.revokedAt ? (
                    <span className="soft">revoked {instantText(token.revokedAt)}</span>
                  ) : (
                    <Button
                      size="xs"
                      variant="default"
                      aria-label={`Revoke the token ${token.label}`}
                      onClick={() => revoke.mutate(token.id)}
                    >
                      Revoke
                    </Button>
                  ),
              },
            ]}
          />
        </div>
      </Stack>
    </section>
  );
}
