import { Button, Checkbox, Group, Select, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type BatchEntry, take } from "../api";
import { Refusal } from "../ui/Refusal";

const path = "/api/v1/workspaces/{workspace}/batches/{id}/entries/{number}";

/** Mends what is wrong with one entry where it stands; it is judged anew at once. */
export function MendForm({
  entry,
  workspace,
  batch,
}: {
  entry: BatchEntry;
  workspace: string;
  batch: string;
}) {
  const queries = useQueryClient();
  const field = entry.problem?.field ?? "address";
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
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        mend.mutate(value);
      }}
    >
      <Group gap="xs" mt={4} align="center">
        {field === "kind" ? (
          <Select
            size="xs"
            aria-label={label}
            placeholder="Choose a kind"
            data={["staff", "guest", "partner", "client"]}
            value={value || null}
            onChange={(kind) => setValue(kind ?? "")}
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
