import {
  Alert,
  Button,
  Checkbox,
  Code,
  CopyButton,
  Group,
  Radio,
  Stack,
  TagsInput,
  Textarea,
  TextInput,
} from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api, inWorkspace, type NewJoinLink, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { FormDialog } from "../ui/FormDialog";
import { NumberField } from "../ui/NumberField";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { ShowMore } from "../ui/ShowMore";
import { SimpleTable } from "../ui/SimpleTable";
import { StateWord } from "../ui/StateWord";
import { usePages } from "../ui/usePages";
import { dayOf, distanceText, instantText, usualText } from "../ui/words";
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
  noEnd: false,
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
  const links = usePages([workspace, "links"], (cursor) =>
    take(
      api.GET("/api/v1/workspaces/{workspace}/links", {
        params: { path: { workspace }, query: { cursor } },
      }),
    ),
  );
  return (
    <Page
      title="Join links"
      actions={
        <Allowed duty="invite">
          <Button onClick={dialog.open}>Make a join link</Button>
        </Allowed>
      }
    >
      <InviteNav />
      <Refusal of={links.error} />
      {made && <HandOut made={made} />}
      <SimpleTable
        rows={links.items}
        keyOf={(link) => link.id}
        nothing="There is no join link. One lets several people come in who hold it: each proves an address first."
        columns={[
          {
            head: "For",
            cell: (link) => (
              <>
                <Link to="/w/$workspace/invite/links/$id" params={{ workspace, id: link.id }}>
                  {link.label}
                </Link>
                {link.needsApproval && <div className="soft">each waits for approval</div>}
              </>
            ),
          },
          { head: "State", cell: (link) => <StateWord state={link.state} /> },
          { head: "Kind", cell: (link) => <Pennant kind={link.kind} /> },
          {
            head: "Came in",
            isNumber: true,
            cell: (link) => (
              <>
                {link.uses} of {link.cap}
              </>
            ),
          },
          {
            head: "Open until",
            isOneLine: true,
            cell: (link) => (
              <span title={instantText(link.expiresAt)}>{distanceText(dayOf(link.expiresAt), today)}</span>
            ),
          },
          { head: "Mail domains", cell: (link) => link.domains.join(", ") || "any" },
        ]}
      />
      <ShowMore of={links} />
      {isOpen && <LinkDialog onMade={setMade} onClose={dialog.close} />}
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

function LinkDialog(props: { onMade: (made: NewJoinLink) => void; onClose: () => void }) {
  const { workspace, view } = useWorkspace();
  return (
    <FormDialog
      title="Make a join link"
      word="Make the link"
      initial={blank}
      save={(form) =>
        take(
          api.POST("/api/v1/workspaces/{workspace}/links", {
            ...inWorkspace(workspace),
            body: {
              ...form,
              role: null,
              gives: bundleOf(form.gives),
              until: null,
              stayDays: form.noEnd ? null : form.stayDays || null,
              message: form.message || null,
            },
          }),
        )
      }
      onDone={props.onMade}
      onClose={props.onClose}
    >
      {(form) => (
        <>
          <TextInput
            label="What it is for"
            required
            maxLength={100}
            data-autofocus
            {...form.getInputProps("label")}
          />
          <Radio.Group label="Kind" {...form.getInputProps("kind")}>
            <Group mt={6}>
              {["staff", "guest", "partner", "client"].map((kind) => (
                <Radio key={kind} value={kind} label={<Pennant kind={kind} />} />
              ))}
            </Group>
          </Radio.Group>
          <Gives
            value={form.values.gives}
            onChange={(part) => form.setFieldValue("gives", { ...form.values.gives, ...part })}
            withoutSeats
          />
          <NumberField label="How many people" min={1} max={10_000} {...form.getInputProps("cap")} />
          <Group grow align="start">
            <NumberField label="Open for so many days" min={1} max={365} {...form.getInputProps("days")} />
            <NumberField
              isOptional
              label="Each may stay so many days"
              description={usualText(view?.usualStayDays?.[form.values.kind])}
              min={1}
              disabled={form.values.noEnd}
              {...form.getInputProps("stayDays")}
            />
          </Group>
          <Checkbox label="Their stays have no end" {...form.getInputProps("noEnd", { type: "checkbox" })} />
          <TagsInput
            label="Only for addresses at"
            description="Mail domains; none means any."
            {...form.getInputProps("domains")}
          />
          <Checkbox
            label="Each waits for approval"
            {...form.getInputProps("needsApproval", { type: "checkbox" })}
          />
          <Textarea
            label="Message"
            description="In plain words, without links."
            autosize
            minRows={2}
            {...form.getInputProps("message")}
          />
        </>
      )}
    </FormDialog>
  );
}
