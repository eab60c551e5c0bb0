import { Button, FileButton, Group, Stack, Tabs, Textarea, Title } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type DragEvent, useState } from "react";
import { api, type Batch, type BatchDefaults, inWorkspace, take, upload } from "../api";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { DefaultsForm, noDefaults } from "./DefaultsForm";
import { InviteNav } from "./InviteNav";

/** Takes a file or a pasted list; every entry gets its verdict before anything is sent. */
export function InviteManyPage() {
  const { workspace, today } = useWorkspace();
  const navigate = useNavigate();
  const [text, setText] = useState("");
  const [defaults, setDefaults] = useState<BatchDefaults>({ ...noDefaults, kind: "guest" });
  const [isOver, setOver] = useState(false);
  const open = (batch: Batch) => {
    if (batch.handedInBefore)
      notifications.show({
        message: `This very file was handed in before, ${instantText(batch.createdAt)} by ${batch.createdBy}. Here is that list; nobody is invited twice.`,
      });
    navigate({ to: "/w/$workspace/invite/lists/$id", params: { workspace, id: batch.id } });
  };
  const file = useMutation({
    mutationFn: (chosen: File) =>
      upload<Batch>(`/api/v1/workspaces/${workspace}/batches`, {
        file: chosen,
        defaults: JSON.stringify(defaults),
        send: "false",
      }),
    onSuccess: open,
  });
  const pasted = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/v1/workspaces/{workspace}/batches/pasted", {
          ...inWorkspace(workspace),
          body: { text, name: null, defaults },
        }),
      ),
    onSuccess: open,
  });
  // Nothing but addresses and names is pasted: what they get is said for all of them, or for none.
  const givesSomething = Boolean(
    defaults.preset || defaults.gives?.roles?.length || defaults.gives?.groups?.length,
  );
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    const [dropped] = event.dataTransfer.files;
    if (dropped) file.mutate(dropped);
  };
  const template = `/api/v1/workspaces/${workspace}/batches/template`;
  return (
    <Page title="Invite many">
      <InviteNav />
      <div className="two-columns">
        <section className="sheet" aria-label="The list">
          <Tabs defaultValue="file">
            <Tabs.List>
              <Tabs.Tab value="file">From a file</Tabs.Tab>
              <Tabs.Tab value="pasted">Pasted</Tabs.Tab>
            </Tabs.List>
            <Tabs.Panel value="file" pt="md">
              <Stack>
                <section
                  className={isOver ? "drop-place over" : "drop-place"}
                  aria-label="Drop a file here"
                  onDragOver={(event) => {
                    event.preventDefault();
                    setOver(true);
                  }}
                  onDragLeave={() => setOver(false)}
                  onDrop={drop}
                >
                  <Stack align="center">
                    <span>Drop a CSV or XLSX file here, or</span>
                    <FileButton onChange={(chosen) => chosen && file.mutate(chosen)} accept=".csv,.xlsx,.txt">
                      {(props) => (
                        <Button {...props} variant="default" loading={file.isPending}>
                          Choose a file
                        </Button>
                      )}
                    </FileButton>
                    <span className="soft">
                      Columns are known by their headings, in any order, in English or German; only the
                      address is needed.
                    </span>
                  </Stack>
                </section>
                <Group>
                  <span>An empty list with all headings:</span>
                  <a href={`${template}?format=xlsx`} download>
                    XLSX
                  </a>
                  <a href={`${template}?format=csv`} download>
                    CSV
                  </a>
                  <a href={`${template}?format=xlsx&language=de`} download>
                    XLSX, German
                  </a>
                </Group>
                <Refusal of={file.error} />
              </Stack>
            </Tabs.Panel>
            <Tabs.Panel value="pasted" pt="md">
              <form
                onSubmit={(event) => {
                  event.preventDefault();
                  pasted.mutate();
                }}
              >
                <Stack>
                  <Textarea
                    label="Addresses"
                    description="As they come: with commas, semicolons, tabs or line ends between them, with names or without."
                    autosize
                    minRows={8}
                    maxRows={20}
                    required
                    value={text}
                    onChange={(event) => setText(event.currentTarget.value)}
                  />
                  <Refusal of={pasted.error} />
                  <Group>
                    <Button type="submit" loading={pasted.isPending} disabled={!givesSomething}>
                      Look at every entry
                    </Button>
                    <span className="soft">
                      {givesSomething
                        ? "Nothing is sent yet."
                        : "Choose first what they all get: a preset, a role or a group."}
                    </span>
                  </Group>
                </Stack>
              </form>
            </Tabs.Panel>
          </Tabs>
        </section>
        <section className="sheet" aria-labelledby="for-all">
          <Title order={2} size="h4" id="for-all" mb="sm">
            For everybody in the list who is not told otherwise
          </Title>
          <DefaultsForm workspace={workspace} today={today} value={defaults} onChange={setDefaults} />
        </section>
      </div>
    </Page>
  );
}
