import { Button, Checkbox, Group, Select, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type BatchEntry, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/batches/{id}/entries/{number}";

/** What of an entry can be mended where it stands. */
const mendable = ["address", "name", "kind", "role", "from", "until", "host", "organisation"];

type MendProps = { entry: BatchEntry; workspace: string; batch: string };

/** Mends what is wrong with one entry where it stands, or says where else that is done. */
export function MendForm(props: MendProps) {
  const field = props.entry.problem?.field ?? "address";
  return mendable.includes(field) ? (
    // What was written for one fault is nothing for the next.
    <MendField key={field} {...props} field={field} />
  ) : (
    <div className="soft">Mend it in the file, and hand that in again.</div>
  );
}

/** Mends one entry; it is judged anew at once. */
function MendField({ entry, workspace, batch, field }: MendProps & { field: string }) {
  const { view } = useWorkspace();
  const queries = useQueryClient();
  const [value, setValue] = useState(field === "address" ? (entry.suggestion ?? entry.address) : "");
  const [asWritten, setAsWritten] = useState(false);
  const mend = useMutation({
    mutationFn: (text: string) =>
      take(
        api.PATCH(path, {
          params: { path: { workspace, id: batch, number: entry.number } },
          body: {
            address: field === "address" ? text : null,
            name: field === "name" ? text : null,
            kind: field === "kind" ? text : null,
            role: field === "role" ? text : null,
            from: field === "from" ? text : null,
            until: field === "until" ? text : null,
            host: field === "host" ? text : null,
            organisation: field === "organisation" ? text : null,
            organisationAsWritten: field === "organisation" && asWritten,
          },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: [workspace, "list", batch] }),
  });
  const label = `Right ${field} for entry ${entry.number}`;
  const choices: Partial<Record<string, string[]>> = {
    kind: ["staff", "guest", "partner", "client"],
    role: (view?.roles ?? []).map((role) => role.name),
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        mend.mutate(value);
      }}
    >
      <Group gap="xs" mt={4} align="center">
        {choices[field] ? (
          <Select
            size="xs"
            aria-label={label}
            placeholder={`Choose a ${field}`}
            data={choices[field]}
            value={value || null}
            onChange={(chosen) => setValue(chosen ?? "")}
            w={160}
          />
        ) : (
          <TextInput
            size="xs"
            aria-label={label}
            type={field === "until" || field === "from" ? "date" : "text"}
            value={value}
            onChange={(event) => setValue(event.currentTarget.value)}
            w={{ base: "100%", sm: 320 }}
          />
        )}
        <Button
          type="submit"
          size="xs"
          variant="default"
          loading={mend.isPending}
          disabled={!value}
          aria-label={`Mend entry ${entry.number}`}
        >
          Mend
        </Button>
        {field === "organisation" && (
          <Checkbox
            size="xs"
            label="Keep it as it is written"
            checked={asWritten}
            onChange={(event) => setAsWritten(event.currentTarget.checked)}
          />
        )}
        {entry.suggestion && value === entry.suggestion && <span className="soft">suggested</span>}
      </Group>
      <Refusal of={mend.error} />
    </form>
  );
}
