import { Select, SimpleGrid, Textarea, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type BatchDefaults, inWorkspace, take } from "../api";
import { StayField } from "../ui/StayField";
import { bundleOf, Gives, type GivesForm, givenBy } from "./Gives";

/** What every entry of a list gets that does not say otherwise. */
export function DefaultsForm(props: {
  workspace: string;
  today: string;
  value: BatchDefaults;
  onChange: (value: BatchDefaults) => void;
}) {
  const [gives, setGives] = useState<GivesForm>(givenBy(props.value.gives ?? undefined));
  const presets = useQuery({
    queryKey: [props.workspace, "presets"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/presets", inWorkspace(props.workspace))),
  });
  const set = (part: Partial<BatchDefaults>) => props.onChange({ ...props.value, ...part });
  return (
    <SimpleGrid cols={{ base: 1, sm: 2 }}>
      <Select
        label="Preset"
        description="Says what the list does not."
        placeholder="None"
        clearable
        data={presets.data?.items.map((preset) => preset.name) ?? []}
        value={props.value.preset ?? null}
        onChange={(preset) => set({ preset })}
      />
      <Select
        label="Kind"
        description="For entries that say none."
        placeholder="As the list says"
        clearable
        data={["staff", "guest", "partner", "client"]}
        value={props.value.kind ?? null}
        onChange={(kind) => set({ kind })}
      />
      <div style={{ gridColumn: "1 / -1" }}>
        <Gives
          value={gives}
          onChange={(part) => {
            const next = { ...gives, ...part };
            setGives(next);
            set({ gives: bundleOf(next) });
          }}
        />
      </div>
      <StayField
        kind={props.value.kind ?? "guest"}
        from={props.value.from ?? ""}
        until={props.value.until ?? ""}
        noEnd={props.value.noEnd ?? false}
        onChange={({ until, noEnd }) => set({ until: until || null, noEnd })}
      />
      <Select
        label="Language of the mail"
        placeholder="The workspace's"
        clearable
        data={[
          { value: "en", label: "English" },
          { value: "de", label: "German" },
        ]}
        value={props.value.language ?? null}
        onChange={(language) => set({ language })}
      />
      <TextInput
        label="Host"
        description="Address of a member of the staff."
        value={props.value.host ?? ""}
        onChange={(event) => set({ host: event.currentTarget.value || null })}
      />
      <Textarea
        label="Message"
        description="In plain words, without links."
        autosize
        minRows={2}
        value={props.value.message ?? ""}
        onChange={(event) => set({ message: event.currentTarget.value || null })}
      />
    </SimpleGrid>
  );
}

/** No defaults at all. */
export const noDefaults: BatchDefaults = {
  kind: null,
  role: null,
  from: null,
  until: null,
  message: null,
  language: null,
  answerDays: null,
  organisation: null,
  host: null,
  preset: null,
  gives: null,
  noEnd: false,
  organisationAsWritten: false,
};
