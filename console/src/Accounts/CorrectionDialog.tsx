import { Text, Textarea, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { api, inWorkspace, Refused, take } from "../api";
import { FormDialog } from "../ui/FormDialog";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/accounts";

/** Corrects the name or address of an account in custody; to somebody whose account is their own it is proposed. */
export function CorrectionDialog(props: {
  address: string;
  name: string;
  /** The name by the standard of the house, where it is another. */
  offered?: string | null;
  onClose: () => void;
}) {
  const { workspace } = useWorkspace();
  const { address } = props;
  return (
    <FormDialog
      title={`Name or address of ${props.name}`}
      word="Correct or propose it"
      initial={{ name: props.offered ?? "", newAddress: "", reason: "" }}
      save={async ({ name, newAddress, reason }) => {
        const body = { address, name: name || null, newAddress: newAddress || null, reason: reason || null };
        try {
          return await take(api.POST(`${path}/propose`, { ...inWorkspace(workspace), body }));
        } catch (fault) {
          if (!(fault instanceof Refused) || fault.problem.code !== "account.held") throw fault;
          return await take(api.POST(`${path}/correct`, { ...inWorkspace(workspace), body }));
        }
      }}
      onDone={(done) =>
        notifications.show({
          message: done.lapsesAt
            ? `A mail asks ${done.name} to accept it.`
            : `The account is called ${done.name} now.`,
        })
      }
      onClose={props.onClose}
    >
      {(form) => (
        <>
          <Text size="sm">
            Where the workspace holds the account, a name counts at once. Everything else waits until its
            holder has accepted it, or lapses after 14 days.
          </Text>
          <TextInput
            label="New name"
            placeholder={props.name}
            data-autofocus
            {...form.getInputProps("name")}
          />
          <TextInput
            label="New main address"
            placeholder={address}
            description="Its holder shows first that it is theirs."
            {...form.getInputProps("newAddress")}
          />
          <Textarea label="Why" description="They read it." autosize {...form.getInputProps("reason")} />
        </>
      )}
    </FormDialog>
  );
}
