import {
  Button,
  Checkbox,
  Group,
  MultiSelect,
  Select,
  Skeleton,
  Stack,
  TagsInput,
  TextInput,
  Title,
} from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, inWorkspace, type Rules, take } from "../api";
import { DayField } from "../ui/DayField";
import { NumberField } from "../ui/NumberField";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { SettingsNav } from "./SettingsNav";
import { useWorkspace } from "./useWorkspace";

const path = "/api/v1/workspaces/{workspace}/rules";
const kinds = ["staff", "guest", "partner", "client"];

/** The rules of the house for inviting. */
export function RulesPage() {
  const { workspace, view } = useWorkspace();
  const queries = useQueryClient();
  const [rules, setRules] = useState<Rules>();
  const found = useQuery({
    queryKey: [workspace, "rules"],
    queryFn: () => take(api.GET(path, inWorkspace(workspace))),
  });
  const pools = useQuery({
    queryKey: [workspace, "seats"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/seats", inWorkspace(workspace))),
  });
  useEffect(() => {
    if (found.data) setRules(found.data);
  }, [found.data]);
  const save = useMutation({
    mutationFn: (body: Rules) =>
      take(
        api.PUT(path, {
          ...inWorkspace(workspace),
          headers: { "If-Match": `"${body.version}"` },
          body,
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: [workspace] }),
  });
  const set = (part: Partial<Rules>) => setRules((before) => before && { ...before, ...part });
  return (
    <Page title="Rules of the house">
      <SettingsNav workspace={workspace} />
      <Refusal of={found.error} />
      {!rules && !found.error && <Skeleton height={300} />}
      {rules && (
        <form
          className="sheet"
          onSubmit={(event) => {
            event.preventDefault();
            save.mutate(rules);
          }}
        >
          <Stack>
            <Group align="start">
              <NumberField
                label="Days to answer, unless told otherwise"
                min={1}
                max={365}
                value={rules.answerDays}
                onChange={(answerDays) => set({ answerDays })}
              />
              <NumberField
                label="Most days that may be given"
                min={1}
                max={365}
                value={rules.longestAnswerDays}
                onChange={(longestAnswerDays) => set({ longestAnswerDays })}
              />
            </Group>
            <Title order={2} size="h4">
              Usual stay, in days
            </Title>
            <StayDays
              nothing="no end"
              days={rules.usualStayDays ?? {}}
              onChange={(usualStayDays) => set({ usualStayDays })}
            />
            <Title order={2} size="h4">
              Longest stay, in days
            </Title>
            <StayDays
              nothing="no limit"
              days={rules.longestStayDays}
              onChange={(longestStayDays) => set({ longestStayDays })}
            />
            <Checkbox
              label="Outsiders need a host"
              checked={rules.hostForOutsiders}
              onChange={(event) => set({ hostForOutsiders: event.currentTarget.checked })}
            />
            <Checkbox.Group
              label="Who waits for approval after accepting"
              value={rules.approval}
              onChange={(approval) => set({ approval })}
            >
              <Group mt={6}>
                {kinds.map((kind) => (
                  <Checkbox key={kind} value={kind} label={<Pennant kind={kind} />} />
                ))}
              </Group>
            </Checkbox.Group>
            <MultiSelect
              label="Roles that wait for approval when they are given by invitation"
              data={(view?.roles ?? []).map((role) => role.name)}
              value={rules.approvalRoles ?? []}
              onChange={(approvalRoles) => set({ approvalRoles })}
            />
            <Checkbox
              label="Whoever comes with another address than the invited one waits for approval"
              description="With a link that was handed over they may, on the word of whoever handed it to them."
              checked={rules.approveOtherAddress ?? false}
              onChange={(event) => set({ approveOtherAddress: event.currentTarget.checked })}
            />
            <Title order={2} size="h4">
              Who may invite whom
            </Title>
            <Group align="start">
              {kinds.map((kind) => (
                <MultiSelect
                  key={kind}
                  label={<Pennant kind={kind} />}
                  placeholder={rules.inviters?.[kind]?.length ? undefined : "anybody who may invite"}
                  data={(view?.roles ?? []).map((role) => role.name)}
                  value={rules.inviters?.[kind] ?? []}
                  onChange={(roles) => set({ inviters: { ...rules.inviters, [kind]: roles } })}
                  w={240}
                />
              ))}
            </Group>
            <TagsInput
              label="Mail domains that may be invited"
              description="None means any; subdomains are meant too."
              value={rules.allowedDomains}
              onChange={(allowedDomains) => set({ allowedDomains })}
            />
            <TagsInput
              label="Mail domains that may not be invited"
              value={rules.blockedDomains}
              onChange={(blockedDomains) => set({ blockedDomains })}
            />
            <Select
              label="When the holder of a claimed account does not answer"
              data={[
                { value: "let-be", label: "nothing follows" },
                { value: "take", label: "the account is taken" },
                { value: "release", label: "the address is taken back" },
              ]}
              allowDeselect={false}
              value={rules.claimSilence ?? "let-be"}
              onChange={(claimSilence) => set({ claimSilence })}
              maw={420}
            />
            <Select
              label="Each account that the workspace holds takes a seat of"
              description="A claim then needs a free seat; the seat is free again when custody ends."
              placeholder="no pool"
              data={(pools.data?.items ?? []).map((pool) => pool.name)}
              clearable
              value={rules.heldSeats ?? null}
              onChange={(heldSeats) => set({ heldSeats })}
              maw={420}
            />
            <TextInput
              label="How names of outsiders are written"
              description="{name} once, and {organisation} or {kind} where you want them. It is offered, and never forced."
              placeholder="{name} ({organisation})"
              value={rules.outsiderNames ?? ""}
              onChange={(event) => set({ outsiderNames: event.currentTarget.value })}
              maw={420}
            />
            <DayField
              label="From when holders of duties need a passkey or a second step"
              description="None means never. Until that day they are reminded of it."
              value={rules.strongSignInFrom ?? ""}
              onChange={(day) => set({ strongSignInFrom: day || null })}
              maw={420}
            />
            <TagsInput
              label="Reminders, in days after the mail"
              description="None means no reminders."
              value={rules.reminderDays.map(String)}
              onChange={(days) =>
                set({ reminderDays: days.map(Number).filter((day) => Number.isInteger(day) && day > 0) })
              }
            />
            <Refusal of={save.error} />
            <Group>
              <Button type="submit" loading={save.isPending}>
                Save the rules
              </Button>
              {save.isSuccess && <span role="status">Saved; they count from the next invitation on.</span>}
            </Group>
          </Stack>
        </form>
      )}
    </Page>
  );
}

/** A number of days for each kind, or none. */
function StayDays(props: {
  nothing: string;
  days: Record<string, number>;
  onChange: (days: Record<string, number>) => void;
}) {
  return (
    <Group align="start">
      {kinds.map((kind) => (
        <NumberField
          key={kind}
          isOptional
          label={<Pennant kind={kind} />}
          placeholder={props.nothing}
          min={1}
          value={props.days[kind] ?? ""}
          onChange={(days) => {
            const { [kind]: _, ...others } = props.days;
            props.onChange(days === "" ? others : { ...others, [kind]: days });
          }}
          w={140}
        />
      ))}
    </Group>
  );
}
