import {
  Alert,
  Button,
  Checkbox,
  Code,
  CopyButton,
  Group,
  Modal,
  NumberInput,
  Radio,
  Skeleton,
  Stack,
  Table,
  TagsInput,
  Textarea,
  TextInput,
} from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api, inWorkspace, type NewJoinLink, take } from "../api";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { StateWord } from "../ui/StateWord";
import { dayOf, distanceText, instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { bundleOf, Gives, givesNothing } from "./Gives";
import { InviteNav } from "./InviteNav";

const blank = {
  label: "",
  kind: "guest",
  gives: givesNothing,
  cap: 25,
  days: 14,
  stayDays: "" as number | "",
  domains: [] as string[],
  needsApproval: false,
  message: "",
  language: null as string | null,
};

/** Join links: those there are, and making one. */
export function LinksPage() {
  const { workspace, today } = useWorkspace();
  const [isOpen, dialog] = useDisclosure();
  const [made, setMade] = useState<NewJoinLink>();
  const links = useQuery({
    queryKey: [workspace, "links"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/links", inWorkspace(workspace))),
  });
  return (
    <Page title="Join links" actions={<Button onClick={dialog.open}>Make a join link</Button>}>
      <InviteNav workspace={workspace} />
      <Refusal of={links.error} />
      {made && <HandOut made={made} />}
      {links.isPending && <Skeleton height={160} />}
      {links.data?.items.length === 0 && (
        <p className="sheet">
          There is no join link. One lets several people come in who hold it: each proves an address first.
        </p>
      )}
      {links.data && links.data.items.length > 0 && (
        <div className="sheet table-holder">
          <Table verticalSpacing={8}>
            <Table.Thead>
              <Table.Tr>
                <Table.Th>For</Table.Th>
                <Table.Th>State</Table.Th>
                <Table.Th>Kind</Table.Th>
                <Table.Th ta="right">Came in</Table.Th>
                <Table.Th>Open until</Table.Th>
                <Table.Th>Mail domains</Table.Th>
              </Table.Tr>
            </Table.Thead>
            <Table.Tbody>
              {links.data.items.map((link) => (
                <Table.Tr key={link.id}>
                  <Table.Td>
                    <Link to="/w/$workspace/invite/links/$id" params={{ workspace, id: link.id }}>
                      {link.label}
                    </Link>
                    {link.needsApproval && <div className="soft">each waits for approval</div>}
                  </Table.Td>
                  <Table.Td>
                    <StateWord state={link.state} />
                  </Table.Td>
                  <Table.Td>
                    <Pennant kind={link.kind} />
                  </Table.Td>
                  <Table.Td ta="right">
                    {link.uses} of {link.cap}
                  </Table.Td>
                  <Table.Td className="one-line" title={instantText(link.expiresAt)}>
                    {distanceText(dayOf(link.expiresAt), today)}
                  </Table.Td>
                  <Table.Td>{link.domains.join(", ") || "any"}</Table.Td>
                </Table.Tr>
              ))}
            </Table.Tbody>
          </Table>
        </div>
      )}
      <Modal opened={isOpen} onClose={dialog.close} title={<strong>Make a join link</strong>} size="lg">
        <LinkForm
          workspace={workspace}
          onMade={(link) => {
            setMade(link);
            dialog.close();
          }}
        />
      </Modal>
    </Page>
  );
}

/** The address of a link and its QR code, shown once. */
export function HandOut({ made }: { made: NewJoinLink }) {
  const picture = `data:image/svg+xml;utf8,${encodeURIComponent(made.qrSvg)}`;
  return (
    <Alert color="fair" variant="light" title="Copy the link now; it is not shown again.">
      <Group align="start">
        <img className="qr" src={picture} alt={`QR code of the join link ${made.link.label}`} />
        <Stack gap="sm">
          <Code style={{ overflowWrap: "anywhere" }}>{made.address}</Code>
          <Group>
            <CopyButton value={made.address}>
              {({ copied, copy }) => (
                <Button size="xs" variant="default" onClick={copy}>
                  {copied ? "Copied" : "Copy the link"}
                </Button>
              )}
            </CopyButton>
            <a href={picture} download={`${made.link.label}.svg`}>
              QR code as SVG
            </a>
            <a href={`data:image/png;base64,${made.qrPng}`} download={`${made.link.label}.png`}>
              as PNG
            </a>
          </Group>
        </Stack>
      </Group>
    </Alert>
  );
}

function LinkForm({ workspace, onMade }: { workspace: string; onMade: (made: NewJoinLink) => void }) {
  const queries = useQueryClient();
  const [form, setForm] = useState(blank);
  const set = (part: Partial<typeof blank>) => setForm((before) => ({ ...before, ...part }));
  const add = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/v1/workspaces/{workspace}/links", {
          ...inWorkspace(workspace),
          body: {
            label: form.label,
            kind: form.kind,
            role: null,
            gives: bundleOf(form.gives),
            until: null,
            stayDays: form.stayDays === "" ? null : form.stayDays,
            cap: form.cap,
            domains: form.domains,
            needsApproval: form.needsApproval,
            days: form.days,
            message: form.message || null,
            language: form.language,
          },
        }),
      ),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: [workspace, "links"] });
      onMade(made);
    },
  });
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate();
      }}
    >
      <Stack>
        <TextInput
          label="What it is for"
          required
          maxLength={100}
          data-autofocus
          value={form.label}
          onChange={(event) => set({ label: event.currentTarget.value })}
        />
        <Radio.Group label="Kind" value={form.kind} onChange={(kind) => set({ kind })}>
          <Group mt={6}>
            {["staff", "guest", "partner", "client"].map((kind) => (
              <Radio key={kind} value={kind} label={<Pennant kind={kind} />} />
            ))}
          </Group>
        </Radio.Group>
        <Gives
          value={form.gives}
          onChange={(part) => set({ gives: { ...form.gives, ...part } })}
          withoutSeats
        />
        <NumberInput
          label="How many people"
          min={1}
          max={10_000}
          value={form.cap}
          onChange={(cap) => set({ cap: Number(cap) || 1 })}
        />
        <Group grow align="start">
          <NumberInput
            label="Open for so many days"
            min={1}
            max={365}
            value={form.days}
            onChange={(days) => set({ days: Number(days) || 1 })}
          />
          <NumberInput
            label="Each may stay so many days"
            description="Empty means no end."
            min={1}
            value={form.stayDays}
            onChange={(days) => set({ stayDays: days === "" ? "" : Number(days) })}
          />
        </Group>
        <TagsInput
          label="Only for addresses at"
          description="Mail domains; none means any."
          value={form.domains}
          onChange={(domains) => set({ domains })}
        />
        <Checkbox
          label="Each waits for approval"
          checked={form.needsApproval}
          onChange={(event) => set({ needsApproval: event.currentTarget.checked })}
        />
        <Textarea
          label="Message"
          description="In plain words, without links."
          autosize
          minRows={2}
          value={form.message}
          onChange={(event) => set({ message: event.currentTarget.value })}
        />
        <Refusal of={add.error} />
        <Group>
          <Button type="submit" loading={add.isPending}>
            Make the link
          </Button>
        </Group>
      </Stack>
    </form>
  );
}
