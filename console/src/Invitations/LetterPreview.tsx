import { Stack, Tabs } from "@mantine/core";
import type { InvitationPreview } from "../api";
import { instantText } from "../ui/words";

/** A mail exactly as it goes out. */
export function LetterPreview({ preview }: { preview: InvitationPreview }) {
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
