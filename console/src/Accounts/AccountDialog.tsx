import { Anchor, Button, Checkbox, Modal, Text, TextInput } from "@mantine/core";
import { useRef, useState } from "react";
import { api, inWorkspace, take } from "../api";
import { FormDialog } from "../ui/FormDialog";
import { useWorkspace } from "../Workspaces/useWorkspace";

/** Makes an account outright at a proved domain; its set-up link goes by mail, or on a sheet to hand over. */
export function AccountDialog({ onClose }: { onClose: () => void }) {
  const { workspace } = useWorkspace();
  const [sheet, setSheet] = useState<{ url: string; name: string }>();
  const hasSheet = useRef(false);
  if (sheet)
    return (
      <Modal opened onClose={onClose} title={`The sheet for ${sheet.name}`}>
        <Text size="sm" mb="md">
          Print it and hand it over. Its link counts once and is shown nowhere else.
        </Text>
        <Anchor
          href={sheet.url}
          download={`account-${sheet.name.replaceAll(/\W+/g, "-").toLowerCase()}.html`}
        >
          Save the sheet
        </Anchor>
        <Button mt="md" display="block" variant="default" onClick={onClose}>
          Done
        </Button>
      </Modal>
    );
  return (
    <FormDialog
      title="Make an account"
      word="Make it"
      initial={{ address: "", name: "", onPaper: false }}
      save={async (body) => {
        const made = await take(
          api.POST("/api/v1/workspaces/{workspace}/accounts", { ...inWorkspace(workspace), body }),
        );
        if (made.sheet) {
          hasSheet.current = true;
          setSheet({
            url: URL.createObjectURL(new Blob([made.sheet], { type: "text/html" })),
            name: made.name,
          });
        }
        return made;
      }}
      said="The account is made."
      onClose={() => hasSheet.current || onClose()}
    >
      {(form) => (
        <>
          <TextInput
            label="Address"
            description="At a mail domain the workspace has proved."
            required
            data-autofocus
            {...form.getInputProps("address")}
          />
          <TextInput label="Name" required {...form.getInputProps("name")} />
          <Checkbox
            label="Hand the set-up link over on a printed sheet"
            description="Otherwise it is mailed. Nobody chooses a password for somebody else."
            {...form.getInputProps("onPaper", { type: "checkbox" })}
          />
        </>
      )}
    </FormDialog>
  );
}
